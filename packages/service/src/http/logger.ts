import { pino, type Level, type Logger } from 'pino';

export type LogLevel = Level;

/** A log of JSON lines on standard output, from a level on. */
export function createLogger(level: LogLevel): Logger {
  return pino({ level });
}
