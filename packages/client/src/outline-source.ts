import { Outline, type LinePath } from '@ephoros/core/window';
import type { GroupLine } from '@ephoros/core/answer';
import type { OpenGroup } from '@ephoros/core/view';
import type { OutlineLine, OutlineSource, OutlineSourceOptions } from './outline.ts';
import { OutlineRequests } from './outline-requests.ts';
import type { RemoteRows } from './remote-rows.ts';
import { unanswered, type SourceState } from './row-source.ts';

type Lines = RemoteRows<GroupLine> | RemoteRows;

/** Lines of groups by position, and rows under those that are open; only what is visible is loaded. */
export function outlineSource(options: OutlineSourceOptions): OutlineSource {
  return new RemoteOutline(options);
}

class RemoteOutline implements OutlineSource {
  private readonly options: Required<Omit<OutlineSourceOptions, 'open'>>;
  private readonly requests: OutlineRequests;
  private readonly levels: number;
  private readonly outline = new Outline();
  /** By the path of the group that they lie in; in the order in which they were last seen. */
  private readonly sections = new Map<string, { readonly path: LinePath; readonly lines: Lines }>();
  /** The lines of the groups that are open, by their paths. */
  private readonly opened = new Map<string, GroupLine>();
  private readonly wanted: Set<string>;
  /** Groups whose lines are requested again. */
  private readonly refreshing = new Set<string>();
  private readonly listeners = new Set<() => void>();
  private readonly made = new WeakMap<object, OutlineLine>();
  private readonly opening = new AbortController();
  private requestedRange = { from: 0, to: 0, at: -Infinity };
  private timer: ReturnType<typeof setTimeout> | undefined;
  /** Whether what is looked at is not requested yet. */
  private flying = false;
  private changes = 0;
  private busy = 0;
  private failure: Error | undefined;
  private current = unanswered;
  private closed = false;

  constructor({ open = [], ...options }: OutlineSourceOptions) {
    this.options = {
      blockSize: 100,
      keep: 40,
      settle: 40,
      mostAtOnce: 5_000,
      keyed: true,
      now: () => performance.now(),
      ...options,
    };
    this.levels = options.query.group?.length ?? 0;
    this.requests = new OutlineRequests(this.options, (path) =>
      this.opened.get(JSON.stringify(path)),
    );
    this.wanted = new Set(open.map(keyOf));
  }

  state = (): SourceState => this.current;

  describe = (): ReturnType<OutlineSource['describe']> => this.requests.meta;

  row = (position: number): OutlineLine | undefined => {
    if (position >= this.outline.length) return undefined;
    return this.lineAt(this.outline.at(position));
  };

  setVisibleRows = (from: number, to: number): void => {
    const last = this.requestedRange;
    if (this.closed || (from === last.from && to === last.to)) return;
    const at = this.options.now();
    this.requestedRange = { from, to, at };
    const { blockSize, settle } = this.options;
    // Groups that are flown over are not read.
    const flight = Math.abs(from - last.from) * settle > blockSize * (at - last.at);
    clearTimeout(this.timer);
    if (flight && this.current.total !== undefined) {
      for (const { lines } of this.sections.values()) lines.setVisibleRows(0, 0);
      this.flying = true;
      this.timer = setTimeout(() => {
        this.load();
        this.notify();
      }, settle);
    } else this.load();
    this.notify();
  };

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  retry = (): void => {
    this.failure = undefined;
    for (const { lines } of this.sections.values()) lines.retry();
    this.notify();
  };

  refresh = (): void => {
    this.failure = undefined;
    for (const [key, { lines }] of this.sections) {
      this.refreshing.add(key);
      lines.refresh();
    }
    this.notify();
  };

  close = (): void => {
    this.closed = true;
    clearTimeout(this.timer);
    this.opening.abort();
    for (const { lines } of this.sections.values()) lines.close();
    this.sections.clear();
    this.listeners.clear();
  };

  toggle = (position: number): void => {
    const path = this.outline.at(position);
    const line = this.lineAt(path);
    if (line?.kind !== 'group') return;
    if (line.open) this.shut(path);
    else this.unfold(path, line.line);
    this.load();
    this.notify();
  };

  openLevel = async (): Promise<void> => {
    const sections = this.outermostClosed();
    this.busy += 1;
    this.notify();
    try {
      for (const path of sections) {
        for await (const [index, line] of this.requests.allLines(path, this.opening.signal)) {
          this.unfold([...path, index], line);
        }
      }
    } catch (thrown) {
      if (!this.opening.signal.aborted) this.failure = asError(thrown);
    } finally {
      this.busy -= 1;
      this.load();
      this.notify();
    }
  };

  closeAll = (): void => {
    this.wanted.clear();
    for (const path of this.outline.openIn([])) this.shut(path);
    this.load();
    this.notify();
  };

  openGroups = (): readonly OpenGroup[] => [
    ...[...this.opened.keys()].map((key) => this.requests.valuesOf(JSON.parse(key) as LinePath)),
    // What has not been read yet is still to be opened.
    ...[...this.wanted].map((key) => JSON.parse(key) as OpenGroup),
  ];

  pathAt = (position: number): LinePath => this.outline.at(position);

  positionOf = (path: LinePath): number => this.outline.positionOf(path);

  endOf = (path: LinePath): number => this.outline.positionOf(path) + 1 + this.outline.sizeOf(path);

  generation = (): number => this.changes;

  private lineAt(path: LinePath): OutlineLine | undefined {
    const depth = path.length - 1;
    const index = path.at(-1) ?? 0;
    const section = this.sections.get(JSON.stringify(path.slice(0, -1)));
    const found = section?.lines.row(index);
    if (found === undefined) {
      const state = section?.lines.state();
      if (state?.total === 0) return { kind: 'empty', depth };
      const error = state?.status === 'failed' ? state.error : undefined;
      return { kind: 'missing', depth, error };
    }
    if (depth === this.levels) {
      return this.made.get(found) ?? this.remember(found, { kind: 'row', depth, row: found });
    }
    // Others may have moved the lines: above what is open stands the line that it was opened from.
    const opened = this.opened.get(JSON.stringify(path));
    const line = opened ?? (found as GroupLine);
    const known = this.made.get(line);
    const open = opened !== undefined;
    if (known?.kind === 'group' && known.open === open) return known;
    const openable = depth < this.levels - 1 || line.filter !== null;
    return this.remember(line, { kind: 'group', depth, line, open, openable });
  }

  /** The same object as long as it says the same, so that nothing is drawn again. */
  private remember(of: object, line: OutlineLine): OutlineLine {
    this.made.set(of, line);
    return line;
  }

  private unfold(path: LinePath, line: GroupLine): void {
    const last = path.length === this.levels;
    if (last && line.filter === null) return;
    if (this.outline.isOpen(path)) return;
    this.outline.open(path, Math.max(1, last ? line.count : (line.below ?? 0)));
    // The group around it may have been closed meanwhile.
    if (!this.outline.isOpen(path)) return;
    this.changes += 1;
    this.opened.set(JSON.stringify(path), line);
  }

  private shut(path: LinePath): void {
    const own = JSON.stringify(path);
    const inside = `${own.slice(0, -1)},`;
    for (const key of [...this.opened.keys()]) {
      if (key === own || key.startsWith(inside)) this.opened.delete(key);
    }
    for (const [key, { lines }] of this.sections) {
      if (key !== own && !key.startsWith(inside)) continue;
      lines.close();
      this.sections.delete(key);
    }
    this.outline.close(path);
    this.changes += 1;
  }

  /**
   * After the lines of a group were requested again: those that are open say what they say now; one
   * that stands elsewhere, or is gone, is closed, and opened again where it comes into view.
   */
  private renew(path: LinePath): void {
    this.refreshing.delete(JSON.stringify(path));
    const lines = this.sections.get(JSON.stringify(path))?.lines;
    for (const inside of this.outline.openIn(path)) {
      const key = JSON.stringify(inside);
      const last = this.opened.get(key);
      const now = lines?.row(inside.at(-1) ?? 0) as GroupLine | undefined;
      // Not looked at: it stays as it was.
      if (now === undefined || last === undefined) continue;
      if (JSON.stringify(now.value) === JSON.stringify(last.value)) {
        this.opened.set(key, now);
        continue;
      }
      for (const open of this.opened.keys()) {
        if (open === key || open.startsWith(`${key.slice(0, -1)},`)) {
          this.wanted.add(keyOf(this.requests.valuesOf(JSON.parse(open) as LinePath)));
        }
      }
      this.shut(inside);
    }
  }

  /** Loads what is looked at; what is no longer, and too much to keep, is forgotten. */
  private load(): void {
    if (this.closed) return;
    this.flying = false;
    const ranges = this.visibleRanges();
    for (const [key, { path, from, to }] of ranges) {
      const { lines } = this.sectionAt(path);
      const section = this.sections.get(key);
      if (section !== undefined) {
        this.sections.delete(key);
        this.sections.set(key, section);
      }
      lines.setVisibleRows(from, to);
    }
    for (const [key, { lines }] of this.sections) {
      if (ranges.has(key)) continue;
      // Nothing of it is looked at: what is on its way is given up.
      lines.setVisibleRows(0, 0);
      if (this.sections.size <= this.options.keep || key === '[]') continue;
      lines.close();
      this.sections.delete(key);
    }
  }

  /** Which lines of which groups are looked at. */
  private visibleRanges(): Map<string, { path: LinePath; from: number; to: number }> {
    const ranges = new Map<string, { path: LinePath; from: number; to: number }>();
    const { from, to } = this.requestedRange;
    if (this.current.total === undefined) ranges.set('[]', { path: [], from, to });
    for (let position = from; position < Math.min(to, this.outline.length); position += 1) {
      const path = this.outline.at(position);
      // The lines of the groups around it count as well: they stay in view.
      for (let depth = 0; depth < path.length; depth += 1) {
        const around = path.slice(0, depth);
        const index = path[depth] ?? 0;
        const key = JSON.stringify(around);
        const range = ranges.get(key);
        if (range === undefined) ranges.set(key, { path: around, from: index, to: index + 1 });
        else range.to = Math.max(range.to, index + 1);
      }
    }
    return ranges;
  }

  private sectionAt(path: LinePath): { readonly lines: Lines } {
    const key = JSON.stringify(path);
    const known = this.sections.get(key);
    if (known !== undefined) return known;
    const lines = this.requests.linesIn(path);
    const section = { path, lines };
    this.sections.set(key, section);
    lines.subscribe(() => {
      if (this.sections.get(key) !== section) return;
      if (this.refreshing.has(key) && lines.state().status === 'ready') this.renew(path);
      const { total } = lines.state();
      // Where there is nothing any more, that takes a line.
      const count = total === 0 && path.length > 0 ? 1 : total;
      if (count !== undefined && count !== this.outline.count(path)) {
        this.outline.resize(path, count);
        this.changes += 1;
      }
      this.notify();
    });
    return section;
  }

  /** The groups, of the outermost level that there are, in which not all lines are open. */
  private outermostClosed(): readonly LinePath[] {
    let sections: readonly LinePath[] = [[]];
    for (let depth = 0; depth < this.levels; depth += 1) {
      const closed = sections.filter(
        (path) => this.outline.openIn(path).length < this.outline.count(path),
      );
      if (closed.length > 0) return closed;
      sections = sections.flatMap((path) => this.outline.openIn(path));
    }
    return [];
  }

  /** Opens what is to be opened again, as it comes into view. */
  private openWanted(): boolean {
    if (this.wanted.size === 0) return false;
    let opened = false;
    const { from, to } = this.requestedRange;
    for (let position = from; position < Math.min(to, this.outline.length); position += 1) {
      const path = this.outline.at(position);
      const line = this.lineAt(path);
      if (line?.kind !== 'group' || line.open) continue;
      const key = keyOf([...this.requests.valuesOf(path.slice(0, -1)), line.line.value]);
      if (!this.wanted.delete(key)) continue;
      this.unfold(path, line.line);
      opened = true;
    }
    return opened;
  }

  /** Shows that lines have come, gone or changed. */
  private notify(): void {
    if (this.closed) return;
    if (this.openWanted()) this.load();
    const root = this.sections.get('[]')?.lines.state();
    const observed = [...this.visibleRanges().keys()].flatMap(
      (key) => this.sections.get(key)?.lines.state() ?? [],
    );
    const failed = observed.find(({ status }) => status === 'failed');
    const retrying = observed.find(({ status }) => status === 'retrying');
    const waiting = this.busy > 0 || this.flying;
    const loading = waiting || observed.some(({ status }) => status === 'loading');
    const error = this.failure ?? failed?.error ?? retrying?.error;
    this.current = {
      total: root?.total === undefined ? undefined : this.outline.length,
      totalKind: root?.total === undefined ? 'none' : 'exact',
      open: false,
      status:
        this.failure !== undefined || failed !== undefined
          ? 'failed'
          : retrying !== undefined
            ? 'retrying'
            : loading || root?.total === undefined
              ? 'loading'
              : 'ready',
      error,
      retryAt: retrying?.retryAt,
      progress: observed.find(({ progress }) => progress !== undefined)?.progress,
    };
    for (const listener of [...this.listeners]) listener();
  }
}

function keyOf(values: OpenGroup): string {
  return JSON.stringify(values);
}

function asError(thrown: unknown): Error {
  return thrown instanceof Error ? thrown : new Error(String(thrown));
}
