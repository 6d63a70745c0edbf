/** After all tests. */
export default async function stop(): Promise<void> {
  await globalThis.ephorosTestCluster?.stop();
}
