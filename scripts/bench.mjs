import { runAll } from './run.mjs';

await runAll('bench', ...process.argv.slice(2));
