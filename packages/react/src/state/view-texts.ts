import { viewParameters, type ViewTexts } from '@ephoros/core/view';

/** The parameters of a view that stand in a query string. */
export function textsIn(search: string): ViewTexts {
  const parameters = new URLSearchParams(search);
  return Object.fromEntries(
    viewParameters.flatMap((name) => {
      const text = parameters.get(name);
      return text === null ? [] : [[name, text]];
    }),
  );
}
