/** Asks until the answer is good; fails after a while with the last one. */
export async function until<Result>(
  request: () => Promise<Result>,
  good: (result: Result) => boolean,
  milliseconds = 20_000,
): Promise<Result> {
  const began = performance.now();
  for (;;) {
    const result = await request();
    if (good(result)) return result;
    if (performance.now() - began > milliseconds) {
      throw new Error(`never: ${JSON.stringify(result ?? null).slice(0, 2_000)}`);
    }
    await new Promise((resolve) => setTimeout(resolve, 10));
  }
}
