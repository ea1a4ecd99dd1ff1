import { spawnSync } from 'node:child_process';
import { prepare, ROOT } from './setup.mjs';

const { emptyDatabase } = await prepare({ build: true, footage: true, tests: true });
process.exit(
  spawnSync(process.execPath, ['node_modules/@playwright/test/cli.js', 'test', ...process.argv.slice(2)], {
    cwd: ROOT,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, SORT_SHELF_EMPTY_DATABASE: emptyDatabase, SORT_SHELF_NICE: '0' },
  }).status ?? 1,
);
