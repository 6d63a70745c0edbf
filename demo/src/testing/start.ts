import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { makeScenario, startCluster, type Cluster } from '../index.ts';
import { testFolder, urlsFile, type TestDatabases } from './databases.ts';

declare global {
  var ephorosTestCluster: Cluster | undefined;
}

/** Passages in the tests' own Lowmere Navigation. */
const passages = 20_000;

/** Before all tests: a PostgreSQL of their own, with the demo's data in it. */
export default async function start(): Promise<void> {
  const cluster = await startCluster({ folder: testFolder, port: 54_720 });
  globalThis.ephorosTestCluster = cluster;
  try {
    await fill(cluster);
  } catch (thrown) {
    // Jest tears nothing down after a set-up that failed.
    await cluster.stop();
    throw thrown;
  }
}

async function fill(cluster: Cluster): Promise<void> {
  await makeScenario({
    maintenanceUrl: cluster.url('postgres'),
    database: 'lowmere',
    url: cluster.url('lowmere'),
    passages,
    seed: 7,
  });
  const databases: TestDatabases = {
    lowmere: cluster.url('lowmere'),
    maintenance: cluster.url('postgres'),
    passages,
  };
  // The cluster itself may lie elsewhere, where its owner can reach it.
  mkdirSync(testFolder, { recursive: true });
  writeFileSync(join(testFolder, urlsFile), JSON.stringify(databases));
}
