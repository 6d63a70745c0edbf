import type { LoggedRequest, RequestStage } from '@ephoros/client';

/** The stages of the service, and what else has passed until the answer was read. */
export function stagesOf({ stages, milliseconds = 0 }: LoggedRequest): readonly RequestStage[] {
  const known = stages.reduce((sum, stage) => sum + stage.milliseconds, 0);
  return [...stages, { name: 'way', milliseconds: Math.max(0, milliseconds - known) }];
}

/** Milliseconds with as many digits as tell something. */
export function short(milliseconds: number, locale: string): string {
  const maximumFractionDigits = milliseconds < 10 ? 1 : 0;
  return milliseconds.toLocaleString(locale, { maximumFractionDigits });
}
