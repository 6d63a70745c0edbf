import { rule } from '../index.ts';

describe('a row rule', () => {
  it('holds values as literals, whatever stands in them', () => {
    const name = "x' OR 1 = 1 OR 'a' = '";
    expect(rule`owner = ${name} AND n IN ${[1, 2n]} AND b = ${true}`.text).toBe(
      "owner = 'x'' OR 1 = 1 OR ''a'' = ''' AND n IN (1, 2) AND b = TRUE",
    );
    const moment = new Date('2024-02-29T10:15:00Z');
    expect(rule`at > ${moment}`.text).toBe("at > TIMESTAMP('2024-02-29T10:15:00.000Z')");
  });

  it('is none without its values', () => {
    const missing = undefined as unknown as string;
    expect(() => rule`owner = ${missing}`).toThrow('needs a value behind "owner ="');
    expect(() => rule`owner IN ${[]}`).toThrow('the list is empty');
    expect(() => rule`n = ${NaN}`).toThrow('not NaN');
    // The text that an object has for itself is no value, but a piece of a rule.
    for (const object of [
      Buffer.from('3 OR TRUE'),
      { toString: () => '3 OR TRUE' },
      [[{}]],
      () => 1,
    ]) {
      expect(() => rule`n = ${object as unknown as string}`).toThrow('A row rule holds');
    }
  });
});
