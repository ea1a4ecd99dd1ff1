import { spawnSync } from 'node:child_process';

// Naming, long: random trees named by random conventions, interrupted and taken back (`randomTrees.test.ts`), and a naming server that is
// killed again and again (`soak/kill.ts`), with links and without. The first argument is how many trees; a fifth as many kills.

const trees = Number(process.argv[2] ?? 1000);
const kills = Math.max(2, Math.ceil(trees / 5));
const node = (args: readonly string[], env: Record<string, string>): boolean =>
  spawnSync(process.execPath, args, {
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, ...env },
  }).status === 0;

const begun = performance.now();
const whole = node(
  [
    '--experimental-vm-modules',
    'node_modules/jest/bin/jest.js',
    '--testTimeout',
    '40000',
    'src/server/naming/randomTrees',
  ],
  { SORT_SHELF_TREES: String(trees) },
);
console.log(`${trees} trees took ${((performance.now() - begun) / 60_000).toFixed(1)} minutes`);
const killed = ['0', '1'].map((refuse) =>
  node(['--import', 'tsx', 'soak/kill.ts', String(Math.ceil(kills / 2))], {
    SORT_SHELF_REFUSE_LINKS: refuse,
  }),
);
console.log(`figure naming.trees ${trees} floor ${trees}`);
console.log(`figure naming.trees_with_loss ${whole ? 0 : 1} bound 0`);
console.log(`figure naming.kill_runs_with_loss ${killed.filter((k) => !k).length} bound 0`);
process.exit(whole && killed.every(Boolean) ? 0 : 1);
