import pg from 'pg';

/**
 * What a statement has in its FROM to wait while the gate of its database is shut, however long
 * the machine takes meanwhile; it passes at once where nobody has shut it.
 */
export const gate = 'pg_advisory_xact_lock_shared(1)';

/** Shuts the gate of a database. The function that comes opens it, and may be called twice. */
export async function shutGate(url: string): Promise<() => Promise<void>> {
  const client = new pg.Client({ connectionString: url });
  await client.connect();
  await client.query('select pg_advisory_lock(1)');
  // With its session the lock is gone.
  return () => client.end();
}
