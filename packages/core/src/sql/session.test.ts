import { beginReadOnly, compileSettings } from './index.ts';

describe('settings of a session', () => {
  it('are bound, for as long as it lasts', () => {
    expect(compileSettings({ timezone: 'UTC', jit: 'off' })).toEqual({
      text: 'select set_config($1, $2, false), set_config($3, $4, false)',
      parameters: ['timezone', 'UTC', 'jit', 'off'],
    });
  });

  it('of a transaction are its own, and nothing that stands in them is more than a value', () => {
    expect(beginReadOnly({ timezone: 'UTC', 'search"path': "it's; drop" })).toBe(
      `begin read only; set local "timezone" = 'UTC'; set local "search""path" = 'it''s; drop'`,
    );
  });
});
