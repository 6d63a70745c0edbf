import { catalogue, problem, type ProblemCode } from '@ephoros/core/problem';
import { translate } from './arabic-problems.ts';

const inArabic = /[\u0600-\u06ff]/;

describe('what the service says of an error', () => {
  // Texts of people themselves: what a rule, a trigger or a selection reports.
  const reported = new Set(['breaks-rule', 'refused-by-trigger', 'selection-outdated']);

  it.each((Object.keys(catalogue) as ProblemCode[]).filter((code) => !reported.has(code)))(
    'is said in Arabic with its facts: %s',
    (code) => {
      const requests: string[] = [];
      const facts = new Proxy(
        {},
        {
          get: (_target, name) => {
            if (['message', 'near', 'hint', 'why'].includes(String(name))) return undefined;
            requests.push(String(name));
            return `fact-${String(name)}`;
          },
        },
      );
      const { message } = problem(code, facts as never);
      const shown = new Set(requests.filter((name) => message.includes(`fact-${name}`)));
      const translated = translate(message);
      expect(translated).toMatch(inArabic);
      if (code === 'duplicate-row') return;
      for (const name of shown) expect(translated).toContain(`fact-${name}`);
    },
  );

  it('says what was probably meant, and what kinds of things are', () => {
    expect(translate('Did you mean toll?')).toBe('هل تقصد toll؟');
    expect(translate('Expected a number, found a text.')).toBe('يُنتظر عدد، وهنا نص.');
    expect(translate('Unknown column (a|b) in table passages.')).toBe(
      'لا عمود باسم (a|b) في الجدول passages.',
    );
  });

  it('stays as it is where nothing stands for it', () => {
    expect(translate('A toll is never negative.')).toBe('A toll is never negative.');
  });
});
