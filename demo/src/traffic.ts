import { setTimeout as sleep } from 'node:timers/promises';
import pg from 'pg';

export interface TrafficOptions {
  /** The database of the navigation, as a role that may write. */
  readonly url: string;
  /** Ms between two things that a keeper does, about; 700 by default. */
  readonly pause?: number;
  /** How many keepers are at work; 3 by default. */
  readonly keepers?: number;
  /** Called once for each failure, such as an unavailable database. */
  readonly say?: (line: string) => void;
}

/** Keepers at work, until they are stopped. */
export interface Traffic {
  /** What they have done so far. */
  readonly done: () => Readonly<Record<TrafficAction, number>>;
  stop(): Promise<void>;
}

type TrafficAction = 'recorded' | 'corrected' | 'struck';

/** The newest passages are those that somebody looks at, and so those that keepers work on. */
const among = 40;

const statements: Readonly<Record<TrafficAction, string>> = {
  recorded: `
    insert into passages (lock_id, boat_id, keeper_id, direction, draught_m, wait_minutes, toll, status)
    select l.id, b.id, (select id from keepers order by random() limit 1),
      (array['up', 'down'])[1 + floor(random() * 2)::int]::direction, b.draught_m,
      floor(random() * 40)::int, round((4 + random() * 60)::numeric * 20) / 20, 'passed'
    from (select id from locks order by random() limit 1) l,
      (select id, draught_m from boats order by random() limit 1) b`,
  corrected: `
    update passages set
      wait_minutes = greatest(0, wait_minutes + floor(random() * 9)::int - 4),
      toll = round((coalesce(toll, 4) + random() * 2)::numeric * 20) / 20,
      status = 'corrected'
    where id = (select id from passages order by passed_at desc, id desc
                limit 1 offset floor(random() * ${among})::int)`,
  // Of what was recorded in this hour; the passages of the past stay.
  struck: `
    delete from passages where id = (
      select id from passages where passed_at > now() - interval '1 hour' and id > 1
      order by random() limit 1)`,
};

/** What a keeper does next: mostly recording and correcting. */
function nextAction(random = Math.random()): TrafficAction {
  if (random < 0.4) return 'recorded';
  return random < 0.9 ? 'corrected' : 'struck';
}

/**
 * Simulated keepers who record, correct and strike passages while others look and edit, so that
 * things change under their eyes. A database that is away is tried again.
 */
export function startTraffic(options: TrafficOptions): Traffic {
  const { url, pause = 700, keepers = 3, say = () => undefined } = options;
  const stopped = new AbortController();
  const { signal } = stopped;
  const done = { recorded: 0, corrected: 0, struck: 0 };
  const pool = new pg.Pool({ connectionString: url, max: keepers, application_name: 'traffic' });
  pool.on('error', () => undefined);
  let isReported = false;
  const keeper = async (): Promise<void> => {
    while (!signal.aborted) {
      const action = nextAction();
      try {
        const { rowCount } = await pool.query(statements[action]);
        done[action] += rowCount ?? 0;
      } catch (thrown) {
        if (!isReported) say(`A keeper could not work: ${(thrown as Error).message}`);
        isReported = true;
      }
      await sleep(pause * (0.5 + Math.random()), undefined, { signal }).catch(() => undefined);
    }
  };
  const all = Promise.all(Array.from({ length: keepers }, keeper));
  return {
    done: () => ({ ...done }),
    stop: async () => {
      stopped.abort();
      await all;
      await pool.end();
    },
  };
}
