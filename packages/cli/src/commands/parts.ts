/** A part of Ephoros that this command needs is not installed. */
class MissingPartError extends Error {
  constructor(name: string) {
    super(`This needs the package ${name}. Run: npm install ${name}`);
    this.name = 'MissingPartError';
  }
}

/**
 * A package that only some commands need, so that questions to a service do without.
 * @throws MissingPartError where it is not installed
 */
export async function part<Module>(name: string, load: () => Promise<Module>): Promise<Module> {
  try {
    return await load();
  } catch (thrown) {
    const { code, message } = thrown as { code?: unknown; message?: unknown };
    const missing = code === 'ERR_MODULE_NOT_FOUND' && String(message).includes(name);
    throw missing ? new MissingPartError(name) : thrown;
  }
}
