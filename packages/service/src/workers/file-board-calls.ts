import type { FileProgress } from '@ephoros/core/answer';
import type { FileBoard } from '../export/index.ts';
import { caller, type Channel, type Methods } from './calls.ts';

/** The methods of a board of files, as another process calls them. */
export function fileBoardMethods(board: FileBoard): Methods {
  return {
    tellFile: ([ticket, progress]) => {
      board.tell(ticket as string, progress as FileProgress);
      return Promise.resolve();
    },
    toldFile: ([ticket]) => board.told(ticket as string),
  };
}

/** The board of another process, at the other end of a channel. */
export function remoteFileBoard(channel: Channel): FileBoard {
  const call = caller(channel);
  return {
    tell: (ticket, progress) => void call('tellFile', [ticket, progress]),
    told: (ticket) => call('toldFile', [ticket]) as ReturnType<FileBoard['told']>,
  };
}
