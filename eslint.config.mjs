import tseslint from 'typescript-eslint';
import hooks from 'eslint-plugin-react-hooks';

export default tseslint.config(
  {
    ignores: [
      '**/dist/',
      '**/program/',
      '.ephoros/',
      '**/*.mjs',
      'examples/**/*.js',
      '**/vite.config.ts',
    ],
  },
  tseslint.configs.strictTypeChecked,
  tseslint.configs.stylisticTypeChecked,
  {
    languageOptions: {
      parserOptions: { project: ['tsconfig.tests.json', '{packages/*,demo,bench}/tsconfig.json'] },
    },
    rules: {
      '@typescript-eslint/restrict-template-expressions': ['error', { allowNumber: true }],
      '@typescript-eslint/consistent-type-definitions': 'off',
      '@typescript-eslint/no-confusing-void-expression': 'off',
      // What is left out of a copy is named.
      '@typescript-eslint/no-unused-vars': ['error', { ignoreRestSiblings: true }],
      // Code points are what PostgreSQL and the filter language count in.
      '@typescript-eslint/no-misused-spread': 'off',
      '@typescript-eslint/switch-exhaustiveness-check': [
        'error',
        { considerDefaultExhaustiveForUnions: true },
      ],
    },
  },
  {
    files: ['**/*.tsx', 'packages/{react,console}/src/**/*.ts'],
    plugins: { 'react-hooks': hooks },
    rules: hooks.configs.recommended.rules,
  },
  {
    // Written as those write who read them.
    files: ['examples/**'],
    rules: {
      '@typescript-eslint/no-base-to-string': 'off',
      '@typescript-eslint/no-misused-promises': 'off',
    },
  },
  {
    files: ['**/*.test.ts', '**/*.test.tsx', '**/testing/**', 'examples/**'],
    rules: {
      // Answers are read as they come; what they hold is what the tests are about.
      '@typescript-eslint/no-explicit-any': 'off',
      '@typescript-eslint/restrict-plus-operands': 'off',
      '@typescript-eslint/no-non-null-assertion': 'off',
      '@typescript-eslint/no-unsafe-assignment': 'off',
      '@typescript-eslint/no-unsafe-member-access': 'off',
      '@typescript-eslint/no-unsafe-argument': 'off',
      '@typescript-eslint/no-unsafe-call': 'off',
      '@typescript-eslint/no-unsafe-return': 'off',
    },
  },
);
