import { availableParallelism } from 'node:os';

/** @type {import('jest').Config} */
export default {
  testEnvironment: 'node',
  // The packages as they are written, and not as they were built.
  moduleNameMapper: {
    '^@ephoros/core/(.*)$': '<rootDir>/packages/core/src/$1/index.ts',
    '^@ephoros/client/drafts$': '<rootDir>/packages/client/src/drafts/index.ts',
    '^@ephoros/client/local$': '<rootDir>/packages/client/src/local/index.ts',
    '^@ephoros/(client|react|service)$': '<rootDir>/packages/$1/src/index.ts',
    '^@ephoros/demo$': '<rootDir>/demo/src/index.ts',
  },
  testMatch: [
    '<rootDir>/{packages/*,demo,bench}/src/**/*.test.{ts,tsx}',
    '<rootDir>/examples/*.test.ts',
  ],
  transform: {
    '\\.[jt]sx?$|\\.mjs$': [
      '@swc/jest',
      {
        jsc: {
          parser: { syntax: 'typescript', tsx: true },
          target: 'es2022',
          transform: { react: { runtime: 'automatic' } },
        },
        module: { type: 'commonjs' },
      },
    ],
  },
  transformIgnorePatterns: [
    '/node_modules/(?!(string-width|strip-ansi|ansi-regex|get-east-asian-width|emoji-regex|jose|openid-client|oauth4webapi|cookie)/)',
  ],
  modulePathIgnorePatterns: ['<rootDir>/.*/dist/'],
  extensionsToTreatAsEsm: [],
  globalSetup: '<rootDir>/demo/src/testing/start.ts',
  globalTeardown: '<rootDir>/demo/src/testing/stop.ts',
  testTimeout: 60_000,
  // Tests of pages and programs wait more than they compute.
  maxWorkers: Math.ceil(availableParallelism() * 1.5),
};
