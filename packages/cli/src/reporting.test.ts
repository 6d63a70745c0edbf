import { execFile } from 'node:child_process';
import { existsSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer, request } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { promisify } from 'node:util';
import { recordedService, type RecordedService } from '../../service/src/testing/recorded.ts';
import { PrintQueue } from './report/print-queue.ts';
import { start, type Ended } from './testing/command.ts';

const run = promisify(execFile);
const folder = mkdtempSync(join(tmpdir(), 'ephoros-cli-report-'));
const at = (name: string): string => join(folder, name);

let harbour: RecordedService;

beforeAll(async () => {
  harbour = await recordedService('cli_reports', [
    'create table quays (id int primary key, name text)',
    'create table berths (id int primary key, quay_id int references quays, fee numeric(8, 2), state text, note text)',
    `insert into quays values (1, 'North'), (2, '<b>South</b> & "East"')`,
    `insert into berths select n, n % 2 + 1, n, case when n % 3 = 0 then 'free' else 'taken' end,
       case when n = 300 then '<script>alert(1)</script>' end from generate_series(1, 300) n`,
    'analyze',
  ]);
  const address =
    'http://x/tables/berths?filter=fee%20%3E%20100&sort=-fee&columns=id,quay.name,fee,note' +
    '&group=quay.name,state&aggregate=sum(fee)&chart=bars,quay.name,sum(fee)';
  const { code } = await pending(
    'views',
    'save',
    'berths',
    'Dear </title> berths',
    '--address',
    address,
    '--note',
    'For Mondays.',
  );
  expect(code).toBe(0);
});

afterAll(async () => {
  await harbour.close();
  rmSync(folder, { recursive: true, force: true });
});

const pending = (...args: string[]): Promise<Ended> =>
  start(args, { EPHOROS_URL: harbour.service.url }).ended;

/** What a page says, without its marks. */
function textOf(html: string): string {
  return html
    .replace(/<style[\s\S]*?<\/style>/g, '')
    .replaceAll(/<[^>]*>/g, ' ')
    .replaceAll('&lt;', '<')
    .replaceAll('&gt;', '>')
    .replaceAll('&quot;', '"')
    .replaceAll('&amp;', '&')
    .replaceAll(/\s+/g, ' ');
}

describe('a report', () => {
  it('has the title, sentence, chart, groups and first rows of a saved view, in one page', async () => {
    const file = at('dear.html');
    const { code, stderr } = await pending(
      'report',
      'dear </TITLE> berths',
      '--out',
      file,
      '--rows',
      '5',
    );
    expect([code, stderr]).toEqual([0, `${file}\n`]);
    const html = readFileSync(file, 'utf8');
    const text = textOf(html);
    expect(text).toContain('Dear </title> berths Berths where fee is above 100');
    expect(text).toContain('For Mondays. 200 rows · Created ');
    expect(text).toContain('sum of fee by quay name (bar)');
    expect(html).toMatch(/<svg[\s\S]*<rect[\s\S]*<\/svg>/);
    // Both quays with their states, the sums those of the rows.
    expect(text).toContain(
      'Quay name › State Rows Sum of fee <b>South</b> & "East" 100 20,000.00 free 33 6,633.00 taken 67 13,367.00',
    );
    expect(text).toContain(
      'The first 5 of 200 rows Id Quay name Fee Note 300 North 300.00 <script>alert(1)</script> 299',
    );
    // Nothing that is stored becomes a part of the page, and the page wants nothing from elsewhere.
    expect(html).not.toMatch(/<script|<b>|<\/title>[^<]*berths/);
    expect(html.replaceAll(/http:\/\/www\.w3\.org\/\S+/g, '')).not.toMatch(
      /https?:|url\(|<link|<img/,
    );
    expect(html).toContain('counter(page) " / " counter(pages)');
    expect(html).toMatch(/content: "Dear .*\\3c .*berths"/);
  });

  it('is called after the view, and replaces nothing', async () => {
    const first = await pending('report', 'berths', '--out', at('berths.html'));
    expect(first.code).toBe(0);
    expect(textOf(readFileSync(at('berths.html'), 'utf8'))).toContain('The first 100 of 300 rows');
    const second = await pending('report', 'berths', '--out', at('berths.html'));
    expect([second.code, second.stderr]).toEqual([2, expect.stringContaining('--overwrite')]);
    const out = await pending('report', 'berths', '--out', '-', '--language', 'ar', '--rows', '1');
    expect(out.stdout).toContain('<html lang="ar" dir="rtl">');
    expect(textOf(out.stdout)).toContain('أول');
  });

  it('is a PDF of several sheets, with page numbers and the headers on each', async () => {
    const file = at('dear.pdf');
    const { code, stderr } = await pending('report', 'Dear </title> berths', '--out', file);
    expect([code, stderr]).toEqual([0, `${file}\n`]);
    const bytes = readFileSync(file);
    expect(bytes.subarray(0, 5).toString()).toBe('%PDF-');
    const pages = [...bytes.toString('latin1').matchAll(/\/Type\s*\/Page\b/g)].length;
    expect(pages).toBeGreaterThan(2);
  });

  it.each([
    [['report', 'nothing'], 2, 'There is no saved view nothing'],
    [['report', 'berths', '--time-zone', 'Nowhere/Here'], 2, 'no time zone'],
    [['report', 'berths', '--rows', '0'], 2, 'whole number'],
    [['report', 'berths', '--format', 'doc'], 2, 'Allowed choices'],
    [['report', 'berths', '--out', '/nowhere/x.html'], 2, 'cannot be written'],
  ])('%j is refused in words', async (args, code, message) => {
    const ended = await pending(...args);
    expect([ended.code, ended.stderr]).toEqual([code, expect.stringContaining(message)]);
  });

  it('says where there is no browser, before any work, and what to do', async () => {
    const { code, stderr } = await start(['report', 'berths', '--out', at('none.pdf')], {
      EPHOROS_URL: harbour.service.url,
      EPHOROS_CHROMIUM: '/nowhere/chromium',
    }).ended;
    expect([code, stderr]).toEqual([2, expect.stringContaining('apt-get install chromium')]);
    expect(existsSync(at('none.pdf'))).toBe(false);
  });
});

/** What the program makes of an expression about reports, as a list of texts. */
async function made(expression: string): Promise<readonly string[]> {
  const from = (name: string): string => JSON.stringify(`./packages/cli/dist/report/${name}.js`);
  const script = `
    import { execFileSync } from 'node:child_process';
    import { mkdtempSync, writeFileSync } from 'node:fs';
    import { harmlessPage } from ${from('harmless-page')};
    import { findBrowser } from ${from('find-browser')};
    import { pdfOf } from ${from('pdf')};
    import { printFlags } from ${from('print-flags')};
    const made = ${expression};
    console.log(JSON.stringify([made ?? ''].flat()));`;
  const { stdout } = await run(process.execPath, ['--input-type=module', '-e', script]);
  return JSON.parse(stdout) as readonly string[];
}

describe('a page that is printed', () => {
  it('runs no script, and shows no file and no address, whatever stands in it', async () => {
    const secret = at('secret.txt');
    writeFileSync(secret, 'LOCALSECRET');
    const requests: string[] = [];
    const server = createServer((request, response) => {
      requests.push(request.url ?? '');
      response.end('NETWORKSECRET');
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const { port } = server.address() as AddressInfo;
    const [file, web] = [`file://${secret}`, `http://127.0.0.1:${port}`];
    const markup = `
      <script>document.body.append('SCRIPT' + 'RAN')</script>
      <p onclick="x()" style="background: url(${web}/style)">kept</p>
      <iframe src="${file}"></iframe><object data="${file}"></object><embed src="${file}">
      <img src="${web}/img" onerror="document.body.append('SCRIPT' + 'RAN')">
      <link rel="stylesheet" href="${web}/css"><meta http-equiv="refresh" content="0;url=${file}">
      <style>@import url(${web}/import); p { background: url(${web}/sheet) }</style>
      <svg><script>document.body.append('SCRIPT' + 'RAN')</script><image href="${web}/svg"/>
      <use href="${file}#x"/><foreignObject><iframe src="${file}"></iframe></foreignObject></svg>
      <base href="${web}/"><form action="${web}"><button>x</button></form>`;
    const page = `<!doctype html><html><head><title>t</title></head><body>${markup}</body></html>`;
    const [harmless = '', again] = await made(
      `[harmlessPage(${JSON.stringify(page)}), harmlessPage(harmlessPage(${JSON.stringify(page)}))]`,
    );
    expect(again).toBe(harmless);
    expect(harmless).toContain('kept');
    expect(harmless).not.toMatch(/<(?:script|iframe|object|embed|img|link|base|form|use|image)/i);
    expect(harmless).not.toMatch(/on(?:click|error)=|href=|src=|refresh/i);
    expect(harmless).toMatch(
      /^<!DOCTYPE html><html><head><meta http-equiv="Content-Security-Policy"/,
    );
    const pdf = at('hostile.pdf');
    await made(
      `writeFileSync(${JSON.stringify(pdf)}, await pdfOf(${JSON.stringify(page)}, await findBrowser(process.env)))`,
    );
    expect(readFileSync(pdf).subarray(0, 5).toString()).toBe('%PDF-');
    // Where something was overlooked, the page's own policy keeps the browser from running and loading it; from going
    // elsewhere no policy in a page does.
    const raw = at('raw.html');
    const overlooked = markup.replace(/<meta[^>]*>/, '');
    writeFileSync(raw, harmless.replace('</body>', `${overlooked}</body>`));
    const [dumped] = await made(
      `execFileSync(await findBrowser(process.env), [...printFlags(mkdtempSync('/tmp/ephoros-raw-')), '--dump-dom', ${JSON.stringify(pathToFileURL(raw).href)}], { stdio: ['ignore', 'pipe', 'ignore'] }).toString()`,
    );
    expect(dumped).toContain('kept');
    expect(dumped).not.toContain('SCRIPTRAN');
    server.close();
    expect(requests).toEqual([]);
  });

  it('has a policy of its own, and loses nothing that a report has', async () => {
    const out = at('own.html');
    await pending('report', 'Dear </title> berths', '--out', out);
    const html = readFileSync(out, 'utf8');
    expect(await made(`harmlessPage(${JSON.stringify(html)})`)).toEqual([html]);
    expect(html).toMatch(/content="default-src 'none'; .*style-src 'sha256-/);
    for (const part of ['<svg', '<caption', '<th ', 'class="facts"', 'viewport']) {
      expect(html).toContain(part);
    }
  });

  it('waits for the turn of its caller, who has few in the making', async () => {
    const queue = new PrintQueue();
    const done: string[] = [];
    const releases: (() => void)[] = [];
    const add = (caller: string, name: string): Promise<void> =>
      queue.add(
        caller,
        () =>
          new Promise<void>((resolve) =>
            releases.push(() => {
              done.push(name);
              resolve();
            }),
          ),
      );
    const all = [add('ann', 'a1'), add('ann', 'a2'), add('ann', 'a3'), add('bob', 'b1')];
    await expect(add('ann', 'a4')).rejects.toThrow('You have 3 PDFs in the making');
    while (done.length < 4) {
      releases.shift()?.();
      await new Promise((resolve) => setImmediate(resolve));
    }
    await Promise.all(all);
    expect(done).toEqual(['a1', 'a2', 'b1', 'a3']);
    const again = add('ann', 'a5');
    await new Promise((resolve) => setImmediate(resolve));
    releases.shift()?.();
    await again;
  });
});

describe('a service that makes reports', () => {
  it('makes them of views in an address, and of stored ones, as the caller sees them', async () => {
    const serving = start([
      'serve',
      '--database',
      harbour.url,
      '--records',
      harbour.records,
      '--port',
      '0',
    ]);
    const [, url = ''] = await serving.printed(/^(http:\/\/127\.0\.0\.1:\d+)$/m);
    const get = async (path: string): Promise<Response> => fetch(`${url}/report${path}`);
    const page = await get(
      '/tables/berths?filter=fee%20%3C%203&columns=id&locale=de-DE&time-zone=Europe/Paris',
    );
    expect(page.headers.get('content-type')).toBe('text/html; charset=utf-8');
    expect(textOf(await page.text())).toMatch(/where fee is below 3.* 2 rows .*Rows Id 1 2/);
    const { views } = (await (await fetch(`${url}/api/views`)).json()) as {
      views: { id: string }[];
    };
    const stored = await get(`/views/${views[0]?.id ?? ''}?rows=1`);
    expect(textOf(await stored.text())).toContain('For Mondays.');
    const pdf = await get('/tables/berths?rows=3&format=pdf');
    expect(pdf.headers.get('content-type')).toBe('application/pdf');
    expect(
      Buffer.from(await pdf.arrayBuffer())
        .subarray(0, 5)
        .toString(),
    ).toBe('%PDF-');
    for (const [path, status, message] of [
      ['/tables/nothing', 404, 'Unknown table nothing'],
      ['/tables/berths?filter=fe%20%3E%201', 400, 'Unknown column fe'],
      ['/tables/berths?filter=fee%20%3E', 400, 'filter: '],
      ['/tables/berths?format=doc', 400, 'html or pdf'],
      ['/tables/berths?fltr=1', 400, 'Unknown parameter fltr'],
      ['/tables/berths?rows=5&rows=6', 400, 'rows is given more than once'],
      ['/tables/berths?rows=5000', 400, '1 to 1000'],
      ['/views/nothing', 404, 'saved view does not exist'],
      ['/elsewhere', 404, '/report/tables/'],
    ] as const) {
      const refused = await get(path);
      expect([path, refused.status, await refused.text()]).toEqual([
        path,
        status,
        expect.stringContaining(message),
      ]);
    }
    // No browser is left behind, nor what it was given.
    const { stdout } = await run('ls', [tmpdir()]);
    expect(stdout).not.toContain('ephoros-report-');
    serving.child.kill('SIGTERM');
    expect((await serving.ended).code).toBe(0);
  });
});

describe('a caller who is not the proxy', () => {
  it('has no report by a header of the proxy, whatever stands next to it', async () => {
    const config = at('proxied.yaml');
    writeFileSync(
      config,
      `signIn: [{ kind: proxy, header: X-Person, rolesHeader: X-Groups, from: [127.0.0.1] }]
roles: { all: { tables: all, exports: true } }
`,
    );
    const serving = start(['serve', '--database', harbour.url, '--port', '0', '--config', config]);
    const [, url = ''] = await serving.printed(/^(http:\/\/127\.0\.0\.1:\d+)$/m);
    /** The status of a report that is requested from an address of this machine. */
    const asksFrom = (localAddress: string, more: Record<string, string>): Promise<unknown> =>
      new Promise((resolve, reject) => {
        const headers = { 'X-Person': 'ann', 'X-Groups': 'all', ...more };
        const sent = request(`${url}/report/tables/berths?rows=1`, { localAddress, headers });
        sent.on('response', (answer) => resolve(answer.resume().statusCode));
        sent.on('error', reject).end();
      });
    // As the proxy itself it has one.
    expect(await asksFrom('127.0.0.1', {})).toBe(200);
    const forged: Record<string, string>[] = [
      {},
      { 'Ephoros-Own': 'junk' },
      { 'Ephoros-Own': 'junk', 'Ephoros-Client': '127.0.0.1' },
      { 'ephoros-client': '127.0.0.1' },
      { 'X-Forwarded-For': '127.0.0.1' },
    ];
    for (const more of forged)
      expect([more, await asksFrom('127.0.0.2', more)]).toEqual([more, 401]);
    serving.child.kill('SIGTERM');
    expect((await serving.ended).code).toBe(0);
  });
});

/** An application with rules of access, and reports next to its router; prints what two callers see. */
const application = (database: string): string => `
  import { createServer } from 'node:http';
  import { createRouter, rule } from './packages/service/dist/index.js';
  import { reportRoutes } from './packages/cli/dist/report/routes.js';
  const access = ({ headers }) => headers.authorization === 'Bearer ann'
    ? { caller: 'ann', tables: { berths: { rows: rule\`id <= \${7}\`, hidden: ['note'] } } }
    : undefined;
  const router = createRouter({ database: ${JSON.stringify(database)}, access });
  const reports = reportRoutes({ environment: {} }, { error: ({ err }) => console.error(err) });
  const server = createServer((request, response) => {
    const [, mount, rest] = /^\\/(report|api)(.*)$/.exec(request.url);
    request.url = rest;
    if (mount === 'report') reports(request, response);
    else router(request, response, () => response.end());
  });
  await new Promise((resolve) => server.listen(0, '127.0.0.1', resolve));
  const url = 'http://127.0.0.1:' + server.address().port + '/report/tables/berths';
  const told = [];
  for (const headers of [{ Authorization: 'Bearer ann' }, {}]) {
    const answer = await fetch(url, { headers });
    told.push([answer.status, await answer.text()]);
  }
  server.close();
  await router.close();
  console.log(JSON.stringify(told));
  process.exit();
`;

describe('somebody who sees a part', () => {
  it('has a report of that part', async () => {
    const args = ['--input-type=module', '-e', application(harbour.url)];
    const { stdout, stderr } = await run(process.execPath, args);
    expect(stderr).toBe('');
    const [own, unknown] = JSON.parse(stdout) as [number, string][];
    expect(own?.[0]).toBe(200);
    expect(textOf(own?.[1] ?? '')).toMatch(/ 7 rows .* Id Quay id Fee State 1 /);
    expect(unknown).toEqual([401, expect.stringContaining('Sign in')]);
  });
});
