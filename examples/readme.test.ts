import { execFileSync, spawn, type ChildProcess } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

jest.setTimeout(1_200_000);

const root = process.cwd();

/** The commands of the README's shell blocks, a line each, without their remarks. */
function commandsOf(markdown: string): string[] {
  return [...markdown.matchAll(/^```sh\n(.*?)^```/gms)].flatMap(([, block = '']) =>
    block
      .replace(/\\\n/g, '')
      .split('\n')
      .map((line) => line.replace(/\s+#.*$/, '').trim())
      .filter((line) => line !== ''),
  );
}

function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const probe = createServer().listen(0, '127.0.0.1', () => {
      const { port } = probe.address() as AddressInfo;
      probe.close(() => resolve(port));
    });
  });
}

describe('the README', () => {
  const commands = commandsOf(readFileSync(join(root, 'README.md'), 'utf8'));
  let folder: string;
  let clone: string;
  let demo: ChildProcess | undefined;
  let url = '';

  const run = (command: string, env: Record<string, string> = {}): string =>
    execFileSync('bash', ['-c', command], {
      timeout: 600_000,
      cwd: clone,
      encoding: 'utf8',
      stdio: ['ignore', 'pipe', 'pipe'],
      env: { ...process.env, ...env },
      maxBuffer: 64 * 1024 * 1024,
    });

  beforeAll(() => {
    folder = mkdtempSync(join(tmpdir(), 'ephoros-readme-'));
    clone = join(folder, 'ephoros');
    execFileSync('git', ['clone', '--quiet', '--no-hardlinks', root, clone]);
  });

  afterAll(async () => {
    if (demo?.pid !== undefined && demo.exitCode === null) {
      const ended = new Promise((resolve) => demo?.once('close', resolve));
      // To all that the command has started, as Ctrl-C in a terminal does.
      process.kill(-demo.pid, 'SIGINT');
      await ended;
    }
    rmSync(folder, { recursive: true, force: true });
  });

  it('has the commands that are tried here', () => {
    expect(commands).toEqual(
      expect.arrayContaining(['npm run demo', 'npm test', 'npm ci && npm run build']),
    );
    expect(commands.filter((one) => one.startsWith('npx ephoros')).length).toBeGreaterThan(8);
  });

  it('says what to run where nothing is built yet', () => {
    run('npm ci --no-audit --no-fund --prefer-offline');
    expect(existsSync(join(clone, 'packages/cli/program'))).toBe(false);
    let written = '';
    try {
      run('npx ephoros tables');
    } catch (thrown) {
      written = (thrown as { stderr: string }).stderr;
    }
    expect(written).toContain('nothing is built yet. Run: ');
    expect(written).toContain('npm run build');
  });

  it('is true in a fresh clone: the demo, and every command after it', async () => {
    run('npm run build');
    const port = await freePort();
    demo = spawn('npm', ['run', 'demo', '--', '--passages', '2000', '--port', String(port)], {
      cwd: clone,
      stdio: ['ignore', 'pipe', 'pipe'],
      detached: true,
    });
    url = await new Promise<string>((resolve, reject) => {
      let text = '';
      demo?.stdout?.setEncoding('utf8').on('data', (piece: string) => {
        text += piece;
        const found = /is open: (http:\S+)/.exec(text)?.[1];
        if (found !== undefined) resolve(found);
      });
      demo?.stderr?.setEncoding('utf8').on('data', (piece: string) => {
        text += piece;
      });
      demo?.once('exit', (code) => reject(new Error(`the demo ended with ${code}: ${text}`)));
    });
    for (const command of commands) {
      // The demo runs, the clone is built, and the tests are these.
      if (['npm run demo', 'npm test', 'npm ci && npm run build'].includes(command)) continue;
      if (command.startsWith('npx ephoros serve')) {
        expect(run('npx ephoros serve --help')).toContain('--database');
        continue;
      }
      expect(command).toMatch(/^(npx ephoros|curl) /);
      const described = run(command.replaceAll('http://127.0.0.1:4620', url), { EPHOROS_URL: url });
      // What is written to a file says so, or nothing.
      if (!/--out|>/.test(command)) expect(described).not.toBe('');
    }
    expect(readFileSync(join(clone, 'src/tables.ts'), 'utf8')).toContain('passages');
    expect(readFileSync(join(clone, 'boats.csv'), 'utf8')).toMatch(/^id,name\r\n/);
  });
});
