import { freshDatabase, testDatabases } from '../../../../demo/src/testing/databases.ts';
import { pageTests, type PageTests } from '../../../../examples/page-tests.ts';
import { servePage, type ServedPage } from './built-page.ts';

/** What tests of tables in a page have at hand. */
export interface TableTests extends PageTests<ServedPage> {
  /** Opens a table by its name behind the hash. */
  readonly open: (name: string, search?: string) => Promise<void>;
  /** Waits until the first table says where it is. */
  readonly says: (text: string | RegExp) => Promise<void>;
  /** What the page has noted. */
  readonly logged: () => Promise<unknown[]>;
}

/** Builds and serves a page of tables for the tests of a file. */
export function tableTests(name: string, script: string): TableTests {
  const at = pageTests(
    async () => {
      const records = await freshDatabase(`records_of_${name}`, []);
      const served = await servePage(name, script, testDatabases().lowmere, {}, records.url);
      const close = async (): Promise<void> => {
        await served.close();
        await records.drop();
      };
      return { ...served, close };
    },
    (served) => served.close(),
  );
  return Object.assign(at, {
    open: async (table: string, search = '') => {
      await at.page.goto(`${at.served.url}/${search}#${table}`);
    },
    says: (text: string | RegExp) =>
      at.page.locator('.eph-view [role=status]').filter({ hasText: text }).first().waitFor(),
    logged: () => at.page.evaluate<unknown[]>('window.log'),
  });
}
