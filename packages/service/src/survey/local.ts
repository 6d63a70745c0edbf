import { compilePlan, readPlan, type PlanNode, type Statement } from '@ephoros/core/sql';
import { Failure, type Database } from '../run/index.ts';
import { LRUCache } from 'lru-cache';
import { Changes, isUnchanged, type Written } from './changes.ts';
import { Posts } from './posts.ts';
import type {
  Counting,
  KnownPlaces,
  KnownTotal,
  Surveying,
  Surveyor,
  SurveyState,
} from './question.ts';
import { Totals } from './totals.ts';

export interface SurveyorOptions {
  /** Bytes of mileposts kept at most, the least recently used dropped; 64 MB by default. */
  readonly memory?: number;
  /** How many results are surveyed at the same time; 1 by default. */
  readonly atOnce?: number;
  /** A survey that nobody has asked for so long is given up; in ms, 20,000 by default. */
  readonly interest?: number;
  /** The shortest time between two surveys of the same result; in ms, 30,000 by default. */
  readonly renewAfter?: number;
  /** A survey of a table that is written to is renewed after this time; 600,000 by default. */
  readonly age?: number;
  /** The clock, in ms since 1970. */
  readonly now?: () => number;
}

/** The mileposts of one result, as they stand. */
interface Survey {
  readonly question: Surveying;
  /** When somebody last asked for it. */
  asked: number;
  /** The ones in use; being made, where there are no older ones. */
  posts: Posts;
  complete: boolean;
  failed: boolean;
  /** When the last ones were begun, and what had been written to the table by then. */
  begun: number;
  changes: Written | undefined;
  /** Aborts the making that is under way or waits. */
  making: AbortController | undefined;
}

/** Written since, as a share of the rows: past the first it is renewed, past the second useless. */
const renewShare = 0.0005;
const uselessShare = 0.1;
/** Ms after which what nobody asks for any more is forgotten. */
const forgottenAfter = 30 * 60_000;
/** Ms before a survey that failed is tried again. */
const failedFor = 5_000;

/** A surveyor of this process, with connections of its own. */
export class LocalSurveyor implements Surveyor {
  private readonly database: Database;
  private readonly quick: Database;
  private readonly options: Required<SurveyorOptions>;
  private readonly changes: Changes;
  private readonly totals: Totals;
  /** Each in a box of its own: a new one has its room counted anew. */
  private readonly surveys: LRUCache<string, { readonly survey: Survey }>;
  private readonly waiting: Survey[] = [];
  private underWay = 0;
  private readonly sweeper: ReturnType<typeof setInterval>;

  /**
   * Closes both with itself.
   * @param database for counts and surveys, which take long
   * @param quick for what the planner and the statistics say
   */
  constructor(database: Database, quick: Database, options: SurveyorOptions = {}) {
    this.database = database;
    this.quick = quick;
    this.options = {
      memory: 64 * 1024 * 1024,
      atOnce: 1,
      interest: 20_000,
      renewAfter: 30_000,
      age: 600_000,
      now: () => Date.now(),
      ...options,
    };
    const { now, interest, memory } = this.options;
    this.surveys = new LRUCache({
      maxSize: memory,
      ttl: forgottenAfter,
      updateAgeOnGet: true,
      perf: { now },
      sizeCalculation: ({ survey }) => sizeOf(survey),
      dispose: ({ survey }) => this.drop(survey),
      noDisposeOnSet: true,
    });
    this.changes = new Changes(quick, now);
    this.totals = new Totals(database, quick, this.changes, now);
    this.sweeper = setInterval(() => this.sweep(), Math.max(50, interest / 4));
    this.sweeper.unref();
  }

  total(
    counting: Counting,
    kind: 'exact' | 'estimate',
    patience: number,
    signal?: AbortSignal,
  ): Promise<KnownTotal | undefined> {
    return this.totals.total(counting, kind, patience, signal);
  }

  async places(key: string, countKey: string, offset: number): Promise<KnownPlaces> {
    const survey = this.touch(key);
    const total = await this.totals.last(countKey);
    if (survey === undefined) return { surveyed: false, total };
    await this.renew(survey);
    return { surveyed: true, post: survey.posts.before(offset), total };
  }

  begin(question: Surveying): Promise<void> {
    if (!this.surveys.has(question.key)) {
      const survey: Survey = {
        question,
        asked: this.options.now(),
        posts: new Posts(question.step),
        complete: false,
        failed: false,
        begun: 0,
        changes: undefined,
        making: undefined,
      };
      this.surveys.set(question.key, { survey });
      this.queue(survey);
    }
    return Promise.resolve();
  }

  async overview(key: string, count: number): Promise<SurveyState | undefined> {
    const survey = this.touch(key);
    if (survey === undefined) return undefined;
    await this.renew(survey);
    const { posts, complete, failed } = survey;
    const begun = posts.reach > 0 || !this.waiting.includes(survey);
    const state = complete ? 'ready' : failed ? 'failed' : begun ? 'building' : 'waiting';
    return { state, posts: posts.even(count), passed: posts.reach };
  }

  async close(): Promise<void> {
    clearInterval(this.sweeper);
    this.surveys.clear();
    await Promise.all([this.database.close(), this.quick.close()]);
  }

  private touch(key: string): Survey | undefined {
    const survey = this.surveys.get(key)?.survey;
    if (survey !== undefined) survey.asked = this.options.now();
    return survey;
  }

  /** Makes a survey anew when it is old or much was written since; forgets a useless one. */
  private async renew(survey: Survey): Promise<void> {
    const { now, renewAfter, age } = this.options;
    if (!this.isIdle(survey)) return;
    const since = now() - survey.begun;
    if (survey.failed) {
      if (since > failedFor) this.queue(survey);
      return;
    }
    if (!survey.complete) return;
    const { question, posts, changes } = survey;
    const found = await this.changes.read(question.written);
    if (isUnchanged(changes, found) || !this.isIdle(survey)) return;
    const known = changes !== undefined && found !== undefined;
    const written = known ? found.rows - changes.rows : undefined;
    const rows = Math.max(1, posts.reach);
    const others = known && found.files !== changes.files;
    if (others || (written !== undefined && written > rows * uselessShare)) {
      survey.posts = new Posts(question.step);
      survey.complete = false;
      this.queue(survey);
    } else if (since < renewAfter) {
      return;
    } else if (written === undefined || written > rows * renewShare || since > age) {
      this.queue(survey);
    }
  }

  /** Whether a survey is still kept, and nothing is done about it. */
  private isIdle(survey: Survey): boolean {
    return survey.making === undefined && this.surveys.peek(survey.question.key)?.survey === survey;
  }

  private queue(survey: Survey): void {
    survey.making = new AbortController();
    this.waiting.push(survey);
    this.next();
  }

  private next(): void {
    if (this.underWay >= this.options.atOnce) return;
    const survey = this.waiting.shift();
    if (survey?.making === undefined) return;
    this.underWay += 1;
    void this.make(survey, survey.making.signal).finally(() => {
      survey.making = undefined;
      this.underWay -= 1;
      this.next();
    });
  }

  /** One walk over the whole result; what it finds is used as it comes. */
  private async make(survey: Survey, signal: AbortSignal): Promise<void> {
    const { question } = survey;
    const { counting, step } = question;
    const begun = this.options.now();
    survey.begun = begun;
    survey.failed = false;
    const posts = new Posts(step);
    // Older posts stay in use until the new ones reach the end.
    if (!survey.complete) survey.posts = posts;
    let total: number | undefined;
    try {
      const [changes, counted] = await Promise.all([
        this.changes.read(question.written),
        this.changes.read(counting.written),
      ]);
      const statement = await this.cheapest(question, signal);
      await this.database.stream(
        statement,
        (row) => {
          const number = Number(row.at(-1));
          // The last row tells the number of all; it is no post, or the last post once more.
          if (number % step === 0 && number !== total) {
            posts.add({ number, values: row.slice(0, -1) });
            // Posts of long values stand further apart.
            if (posts.bytes > this.options.memory / 2) posts.thin();
          }
          total = number;
        },
        { signal },
      );
      survey.posts = posts;
      survey.changes = changes;
      survey.complete = true;
      this.weigh(survey);
      const took = this.options.now() - begun;
      if (total !== undefined) {
        const at = begun + took;
        this.totals.learn(counting, { rows: total, at, took, changes: counted });
      }
    } catch (thrown) {
      if (!(thrown instanceof Failure) || thrown.kind !== 'cancelled') survey.failed = true;
    }
  }

  /** Of the two ways to set mileposts the one that the planner finds cheaper. */
  private async cheapest({ mileposts, step }: Surveying, signal: AbortSignal): Promise<Statement> {
    const { pass, steps } = mileposts;
    if (steps === undefined) return pass;
    const [whole, single] = await Promise.all([
      this.plan(pass, signal),
      this.plan(steps, signal).then(firstStep),
    ]);
    const walked = whole === undefined ? undefined : deepest(whole)['Plan Rows'];
    if (whole === undefined || single === undefined || walked === undefined) return pass;
    // Estimates of few rows may be wrong by much; a pass is never wrong by much.
    const posts = walked / step;
    return posts > 10 && posts * single['Total Cost'] < whole['Total Cost'] ? steps : pass;
  }

  private async plan(statement: Statement, signal: AbortSignal): Promise<PlanNode | undefined> {
    const { rows } = await this.quick.run(compilePlan(statement), { signal });
    return readPlan(rows[0]?.[0]);
  }

  /** Gives up what nobody has asked for lately. */
  private sweep(): void {
    const { now, interest } = this.options;
    this.surveys.purgeStale();
    for (const { survey } of [...this.surveys.values()]) {
      if (survey.making === undefined || now() - survey.asked < interest) continue;
      this.drop(survey);
      if (!survey.complete) this.surveys.delete(survey.question.key);
    }
    this.totals.abandon(interest);
  }

  /** Ends what is done about a survey. */
  private drop(survey: Survey): void {
    survey.making?.abort();
    const place = this.waiting.indexOf(survey);
    if (place === -1) return;
    this.waiting.splice(place, 1);
    survey.making = undefined;
  }

  /** Has a survey's room counted anew; the one that was asked for longest ago goes where none is left. */
  private weigh(survey: Survey): void {
    const { key } = survey.question;
    if (this.surveys.peek(key)?.survey === survey) this.surveys.set(key, { survey });
  }
}

/** Bytes that a survey takes up, about: the posts, and the question, which may be long. */
function sizeOf({ posts, question }: Survey): number {
  const { counting, mileposts, key, written } = question;
  const statements = [counting.count, counting.estimate, mileposts.pass, mileposts.steps, written];
  const texts = statements.map((one) => sizeOfStatement(one));
  return posts.bytes + key.length * 2 + 1_000 + texts.reduce((sum, one) => sum + one, 0);
}

function sizeOfStatement(statement: Statement | undefined): number {
  if (statement === undefined) return 0;
  const values = statement.parameters.map((value) =>
    typeof value === 'number' ? 8 : typeof value === 'string' ? value.length : value.join().length,
  );
  return statement.text.length + values.reduce((sum, one) => sum + one, 0);
}

/** What the first post costs, in a plan that goes from post to post. */
function firstStep(plan: PlanNode | undefined): PlanNode | undefined {
  if (plan === undefined) return undefined;
  if (plan['Node Type'] === 'Recursive Union') return plan.Plans?.[0];
  for (const child of plan.Plans ?? []) {
    const found = firstStep(child);
    if (found !== undefined) return found;
  }
  return undefined;
}

/** The step of a plan that the window function reads from: it knows how many rows there are. */
function deepest(plan: PlanNode): PlanNode {
  const [child] = plan.Plans ?? [];
  if (plan['Node Type'] !== 'WindowAgg' && child !== undefined) return deepest(child);
  return plan;
}
