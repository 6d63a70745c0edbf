import { readFileSync } from 'node:fs';
import { createClient, type Client, type QueryBuilder } from '../packages/client/src/index.ts';
import { startService, type TestService } from '../packages/service/src/testing/service.ts';
import { testDatabases } from '../demo/src/testing/databases.ts';

/** A step of the guide: the code, the URL that it makes, the statement that is run. */
interface Step {
  readonly code: string;
  readonly url: string;
  readonly sql: string;
}

const guide = readFileSync('docs/guide.md', 'utf8');
const steps = [
  ...guide.matchAll(
    /```js\n(.*?)```\s*```http\nGET (.*?)\n```\s*The database runs:\s*```sql\n(.*?)```/gs,
  ),
].map(([, code = '', url = '', sql = '']): Step => ({ code, url, sql }));

const oneLine = (text: string): string => text.replace(/\s+/g, ' ').trim();

describe('the guide', () => {
  let service: TestService;
  let client: Client;

  beforeAll(async () => {
    service = await startService(
      testDatabases().lowmere,
      'tables: { passages: { sort: -passed_at } }',
    );
    client = createClient({ url: '/api' });
  });

  afterAll(() => service.close());

  it('has a step for everything one does with a table', () => {
    const titles = [...guide.matchAll(/^## \d+\. (.*)$/gm)].map(([, title]) => title);
    expect(titles).toEqual([
      'Get the data',
      'Name the columns',
      'Render the table',
      'Page',
      'Sort',
      'Filter',
      'Search',
      'Group',
      'Load lazily while scrolling',
      'Edit rows',
    ]);
    expect(steps).toHaveLength(8);
  });

  it.each(steps.map((step) => [step.url, step] as const))('is true: %s', async (url, step) => {
    const code = step.code.trim().replace(/;$/, '');
    // eslint-disable-next-line @typescript-eslint/no-implied-eval -- the code that readers copy
    const made = new Function('client', `return ${code}`)(client) as QueryBuilder<never, never>;
    expect(decodeURIComponent(made.url())).toBe(url);

    const parameters = new URL(made.url(), service.url).searchParams;
    parameters.set('explain', 'true');
    const path = new URL(made.url(), service.url).pathname;
    const { status, body } = await service.get(`${path}?${parameters.toString()}`);
    expect(status).toBe(200);
    const { sql, parameters: bound } = body.explanation as { sql: string; parameters: unknown[] };
    const message = bound.map((value, at) => `$${at + 1} = ${JSON.stringify(value)}`).join(', ');
    expect(oneLine(step.sql)).toBe(oneLine(message === '' ? sql : `${sql} -- ${message}`));
  });
});
