import { spawnSync } from 'node:child_process';
import {
  checkNode,
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
const env = { ...process.env, SORT_SHELF_FOOTAGE: ensureFootage(), NODE_NO_WARNINGS: '1' };
process.exit(
  spawnSync(
    process.execPath,
    ['--experimental-vm-modules', 'node_modules/jest/bin/jest.js', ...process.argv.slice(2)],
    { cwd: ROOT, stdio: ['ignore', 'inherit', 'inherit'], env },
  ).status ?? 1,
);
