import { checkRoles } from '../access/index.ts';
import { configurationOf, isLoopback } from '../config/index.ts';
import { readRole, type Catalog, type RoleRow } from '../catalog/index.ts';
import { Engine, optionsOfWorker, type EngineOptions } from '../engine/index.ts';
import {
  accessBySignIn,
  addressBehind,
  auditIn,
  callerOrAddress,
  countingBy,
  listen,
  localRateCounters,
  urlOf,
  type ListenOptions,
} from '../http/index.ts';
import { attemptBounds, SignIn, type SignInEvent } from '../sign-in/index.ts';
import { startWorkers, workerContext, type WorkerContext } from '../workers/index.ts';

export interface ServeOptions
  extends EngineOptions, Omit<ListenOptions, 'engine' | 'metrics' | Offered | keyof EngineOptions> {
  /** Processes that share the port and the connections; 1 by default. */
  readonly workers?: number;
  /** Serves everybody who can reach the address, without any rules of access. */
  readonly unprotected?: boolean;
}

export interface RunningService {
  readonly url: string;
  /** Names of the published tables. */
  readonly tables: readonly string[];
  /** What the database's role could do beyond reading, and how to have one that cannot. */
  readonly warnings: readonly string[];
  /** Whether this process is one of several that another one leads, and speaks for. */
  readonly isWorker: boolean;
  /**
   * Puts new processes in the place of all workers, with the configuration as it is by then, while requests go on to
   * be answered; undefined where there are no workers. @throws WorkerError where a new one does not start
   */
  readonly renew?: () => Promise<void>;
  /** Lets requests under way finish (10 s at most), then closes everything. */
  close(): Promise<void>;
}

/** The service would show everything to everybody who can reach it. */
export class UnprotectedError extends Error {
  constructor(host: string) {
    super(
      `Whoever can reach ${host} would see every published table: there are no rules of access. Listen on 127.0.0.1, use the router with rules of access, or say --unprotected where that is meant.`,
    );
    this.name = 'UnprotectedError';
  }
}

/** @throws UnprotectedError beyond loopback, where there are neither rules nor the word for it */
function refuseUnprotected({
  host,
  access,
  unprotected = false,
}: {
  readonly host: string;
  readonly access?: unknown;
  readonly unprotected?: boolean;
}): void {
  if (!isLoopback(host) && access === undefined && !unprotected) throw new UnprotectedError(host);
}

/**
 * Starts the service; resolves when it listens and has read the catalog once. With several workers
 * this program is run once more for each of them, and leads them from here.
 * @throws UnprotectedError, PortTakenError, ConfigurationError, Failure; WorkerError
 */
export async function serve(options: ServeOptions): Promise<RunningService> {
  const { workers = 1, host = '127.0.0.1', logger } = options;
  const { signIn } = configurationOf(options.configuration ?? {}).configuration;
  refuseUnprotected({ ...options, host, access: options.access ?? signIn });
  refuseForgetful(options);
  refuseAnybodysWriting(options);
  const context = workerContext();
  if (context !== undefined) return serveAsWorker(options, context);
  if (workers === 1) return serveHere(options);
  const { catalog, warnings } = await inspect(options);
  const running = await startWorkers(options, { workers, logger });
  return {
    url: urlOf(host, running.port),
    tables: [...catalog.tables.keys()],
    warnings,
    isWorker: false,
    renew: () => running.renew(),
    close: () => running.close(),
  };
}

async function serveHere(
  options: ServeOptions,
  context?: Pick<WorkerContext, 'attempts' | 'metrics' | 'rates'>,
): Promise<RunningService> {
  const engine = new Engine(options, options.logger);
  try {
    const { catalog, warnings } = await engine.begin();
    for (const warning of warnings) options.logger.warn(warning);
    const { tables } = catalog;
    checkRoles(catalog, configurationOf(options.configuration ?? {}));
    const role = context === undefined ? await readRole(engine.database) : undefined;
    const { metrics } = context ?? {};
    const listening = await listen({
      ...options,
      engine,
      ...offeredBy(options, engine, context),
      ...(metrics === undefined ? {} : { metrics }),
    });
    return {
      url: listening.url,
      tables: [...tables.keys()],
      warnings: [...warnings, ...(role === undefined ? [] : warningsOf(role))],
      isWorker: context !== undefined,
      close: async () => {
        await listening.close();
        await engine.close();
      },
    };
  } catch (thrown) {
    await engine.close();
    throw thrown;
  }
}

type Offered =
  | 'nameOf'
  | 'streams'
  | 'origins'
  | 'writingOrigins'
  | 'odata'
  | 'spellings'
  | 'signIn'
  | 'address'
  | 'title'
  | 'count'
  | 'note';

/** What the configuration says of how the service is reached: by whom, by pages of which origins, in which words. */
function offeredBy(
  { configuration: given = {}, access, logger }: ServeOptions,
  { records }: Engine,
  context: Pick<WorkerContext, 'attempts' | 'rates'> | undefined,
): Pick<ListenOptions, Offered | 'access'> {
  const { configuration } = configurationOf(given);
  const { origins, writingOrigins, odata = false, spelling = [] } = configuration;
  const { signIn: ways, address, title, audit, rates: bounds } = configuration;
  const addressOf = addressBehind(configuration.proxies ?? []);
  const progressStore = (context?.rates ?? localRateCounters)(bounds);
  const { questions: requests = ways === undefined ? 'nothing' : 'names' } = audit ?? {};
  const nameOf = callerOrAddress(addressOf);
  const offered = {
    ...{ nameOf, streams: bounds?.streams },
    ...{ origins, writingOrigins, odata, spellings: spelling, title },
    ...(address && { address }),
    ...(progressStore && { count: countingBy(progressStore, bounds, nameOf) }),
    ...(requests === 'nothing' ? {} : { note: auditIn(logger, requests, addressOf) }),
  };
  if (ways === undefined) return offered;
  const requested = { ...configuration, signIn: ways };
  const lines = logger.child({}, { level: 'info' });
  const notify =
    requests === 'nothing'
      ? undefined
      : (event: SignInEvent): void => lines.info({ audit: 'sign-in', ...event });
  const attempts = context?.attempts ?? localRateCounters(attemptBounds);
  const signIn = new SignIn({
    configuration: requested,
    records,
    addressOf,
    attempts,
    onEvent: notify,
  });
  // A program's own rules come first.
  return { ...offered, signIn, access: access ?? accessBySignIn(signIn, configuration) };
}

/** @throws ConfigurationError where pages elsewhere write and nobody has to say who they are */
function refuseAnybodysWriting({ configuration: given = {}, access }: ServeOptions): void {
  const file = configurationOf(given);
  const { writingOrigins = [], signIn } = file.configuration;
  if (writingOrigins.length === 0 || signIn !== undefined || access !== undefined) return;
  const message = 'pages of other origins write only where callers sign in: add signIn';
  throw file.refuse([{ path: ['writingOrigins'], message }]);
}

/** @throws ConfigurationError where a way of signing in keeps something, and nothing is stored */
function refuseForgetful({ configuration: given = {}, records }: ServeOptions): void {
  if (records !== undefined) return;
  const file = configurationOf(given);
  const errors = (file.configuration.signIn ?? []).flatMap(({ kind }, index) =>
    kind === 'tokens' || kind === 'openid'
      ? [
          {
            path: ['signIn', index],
            message: `${kind === 'tokens' ? 'tokens' : 'sessions'} are stored in the records: start the service with --records`,
          },
        ]
      : [],
  );
  if (errors.length > 0) throw file.refuse(errors);
}

/** The channel to the leading process would keep a worker alive, also one that cannot listen. */
async function serveAsWorker(
  options: ServeOptions,
  { positions, fileProgressStore, ...shared }: WorkerContext,
): Promise<RunningService> {
  try {
    const own = optionsOfWorker(options, options.workers ?? 1);
    const running = await serveHere(
      { ...own, positionIndex: positions, fileProgressStore },
      shared,
    );
    return {
      ...running,
      close: async () => {
        await running.close();
        shared.leave();
      },
    };
  } catch (thrown) {
    shared.leave();
    throw thrown;
  }
}

/** Looks once whether the database answers, which tables are published, and what the role may do. */
async function inspect(
  options: EngineOptions,
): Promise<{ readonly catalog: Catalog; readonly warnings: readonly string[] }> {
  const engine = new Engine({ ...options, connections: 1 });
  try {
    const { catalog, warnings } = await engine.begin();
    checkRoles(catalog, configurationOf(options.configuration ?? {}));
    return { catalog, warnings: [...warnings, ...warningsOf(await readRole(engine.database))] };
  } finally {
    await engine.close();
  }
}

function warningsOf({ name, superuser, writes }: RoleRow): readonly string[] {
  const better = 'Sessions are read-only; a role that may do nothing but SELECT is safer still.';
  if (superuser) return [`the role ${name} is a superuser. ${better}`];
  return writes === 0 ? [] : [`the role ${name} may write to ${writes} tables. ${better}`];
}
