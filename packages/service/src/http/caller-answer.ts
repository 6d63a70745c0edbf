import type { CallerAnswer } from '@ephoros/core/answer';
import type { RequestContext } from '../engine/index.ts';

/** What callers get about themselves; empty where callers are not distinguished. */
export function callerAnswerOf(
  access: RequestContext['access'],
  { explains, keepsViews }: { readonly explains: boolean; readonly keepsViews: boolean },
): CallerAnswer {
  const { caller: name = null, may = {}, about = {} } = access ?? {};
  return {
    name,
    title: about.title ?? name,
    roles: [...(about.roles ?? [])],
    may: {
      exports: may.exports ?? true,
      explanations: explains,
      // Without records there is nowhere to save a view.
      views: keepsViews && (may.views ?? true),
      metrics: may.metrics ?? true,
    },
    expiresAt: about.expiresAt?.toISOString() ?? null,
    canSignOut: about.bySession === true,
  };
}
