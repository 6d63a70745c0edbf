import type { FileProgress } from '@ephoros/core/answer';
import type { FileProgressStore } from '../export/index.ts';
import { caller, type Channel, type Methods } from './calls.ts';

/** The methods of a board of files, as another process calls them. */
export function fileProgressMethods(progressStore: FileProgressStore): Methods {
  return {
    tellFile: ([ticket, progress]) => {
      progressStore.report(ticket as string, progress as FileProgress);
      return Promise.resolve();
    },
    toldFile: ([ticket]) => progressStore.progressOf(ticket as string),
  };
}

/** The board of another process, at the other end of a channel. */
export function remoteFileProgressStore(channel: Channel): FileProgressStore {
  const call = caller(channel);
  return {
    report: (ticket, progress) => void call('tellFile', [ticket, progress]),
    progressOf: (ticket) =>
      call('toldFile', [ticket]) as ReturnType<FileProgressStore['progressOf']>,
  };
}
