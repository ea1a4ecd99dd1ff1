import { spawnSync } from 'node:child_process';
import { JEST, prepare, ROOT } from './setup.mjs';

const { footage, emptyDatabase } = await prepare({ footage: true, tests: true });
const env = {
  ...process.env,
  SORT_SHELF_FOOTAGE: footage,
  SORT_SHELF_EMPTY_DATABASE: emptyDatabase,
  NODE_NO_WARNINGS: '1',
};
process.exit(
  spawnSync(process.execPath, [...JEST, ...process.argv.slice(2)], {
    cwd: ROOT,
    stdio: ['ignore', 'inherit', 'inherit'],
    env,
  }).status ?? 1,
);
