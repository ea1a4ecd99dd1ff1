import { spawnSync } from 'node:child_process';
import {
  checkNode,
  emptyDatabase,
  ensureBuild,
  ensureDependencies,
  ensureFfmpeg,
  ensureFootage,
  ensureTestPrograms,
  ROOT,
} from './setup.mjs';

checkNode();
ensureDependencies();
ensureFfmpeg();
ensureTestPrograms();
ensureFootage();
ensureBuild();
process.exit(
  spawnSync(process.execPath, ['node_modules/@playwright/test/cli.js', 'test', ...process.argv.slice(2)], {
    cwd: ROOT,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, SORT_SHELF_EMPTY_DATABASE: emptyDatabase() },
  }).status ?? 1,
);
