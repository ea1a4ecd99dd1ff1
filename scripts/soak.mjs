import { runAll } from './run.mjs';

await runAll('soak', ...process.argv.slice(2));
