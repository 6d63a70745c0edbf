import { freshDatabase, testDatabases } from '../../../demo/src/testing/databases.ts';
import { where } from '@ephoros/core/expression';
import { startService, type TestService } from '../../service/src/testing/service.ts';
import { createClient, ServiceError } from './index.ts';

let service: TestService;
let records: { url: string; drop: () => Promise<void> };

beforeAll(async () => {
  records = await freshDatabase('client_records', []);
  service = await startService(testDatabases().lowmere, '', { records: records.url });
});

afterAll(async () => {
  await service.close();
  await records.drop();
});

describe('the client of a service', () => {
  it('keeps selections, asks by them, changes and drops them', async () => {
    const { selections } = createClient({ url: `${service.url}/api` });
    const keys = Array.from({ length: 5_000 }, (_, index) => String(index + 1));
    const made = await selections.keep('passages', { kind: 'keys', keys });
    expect(made.count).toBe(5_000);
    const changed = await selections.change(made.id, { remove: ['1', '2'] });
    expect(changed.count).toBe(4_998);
    const matching = await selections.keep('passages', {
      kind: 'matching',
      filter: 'id <= 20',
      except: ['3'],
    });
    expect((await selections.read(matching.id)).count).toBe(19);
    await selections.drop(made.id);
    await expect(selections.read(made.id)).rejects.toBeInstanceOf(ServiceError);
  });

  it('keeps views, finds them, changes them where they are as they were read, drops them', async () => {
    const { views } = createClient({ url: `${service.url}/api` });
    const view = { filter: where().above('toll', 100) };
    const savedView = await views.keep({ table: 'passages', name: 'Dear', view, shared: true });
    expect(savedView).toMatchObject({ name: 'Dear', shared: true, view: { filter: 'toll > 100' } });
    const { views: found } = await views.list({ table: 'passages', search: 'dea', limit: 1 });
    expect(found).toEqual([savedView]);
    const named = await views.change(savedView, { name: 'Dearest' });
    await expect(views.change(savedView, { name: 'Dear' })).rejects.toMatchObject({ status: 412 });
    const again = await views.change({ id: savedView.id, version: 'any' }, { view: {} });
    expect(again).toMatchObject({ name: named.name, view: { version: 1 } });
    expect(await views.read(savedView.id)).toEqual(again);
    await views.drop(savedView.id);
    await expect(views.read(savedView.id)).rejects.toMatchObject({ kind: 'refused', status: 404 });
  });
});
