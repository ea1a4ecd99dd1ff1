import { buildThreads } from './scripts/threads.mjs';

await buildThreads();

export default {
  testEnvironment: './scripts/testEnvironment.mjs',
  // By default Jest puts setters that call themselves without end on what a finished test file has left behind:
  // whoever writes to it late then fails the file that happens to run.
  testEnvironmentOptions: { globalsCleanup: 'off' },
  roots: ['<rootDir>/src', '<rootDir>/scripts'],
  testMatch: ['**/*.test.ts', '**/*.test.tsx', '**/*.test.mjs'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: {
    '^.+\\.tsx?$': [
      '@swc/jest',
      {
        module: { type: 'es6' },
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', tsx: true },
          transform: { react: { runtime: 'automatic' } },
        },
      },
    ],
  },
  // A busy machine is slow; only a test that hangs is ended.
  testTimeout: 120_000,
  // Jest would leave one core idle; the tests wait for encoders most of the time.
  maxWorkers: 2,
  // What a test file has loaded is not let go of when it ends, and a large heap makes the files after it up to four times as slow: a
  // worker that has grown is replaced.
  workerIdleMemoryLimit: '400MB',
};
