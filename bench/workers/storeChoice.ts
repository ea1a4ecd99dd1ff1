import { sql } from 'drizzle-orm';
import path from 'node:path';
import { openRuntime } from '../../src/server/runtime';
import { TEST_JOB } from '../../src/server/testing/media';

// Gives the clips of a stored job what is given when footage is chosen: `storeChoice.ts <home>` after `storeShelf.ts`. 300 keywords,
// three on each clip; 200 bins in one another, each clip in one; two ranges on each clip; facts that are searched for; one picture for all.

const home = process.argv[2]!;
const opened = await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false });
const { db } = opened;
const run = (text: string) => db.execute(sql.raw(text));
await run(
  `insert into keywords (id, job, name, key, family) select 'k' || n, '${TEST_JOB}', 'word ' || n, 'word ' || n, 'group ' || n % 7 from generate_series(0, 299) n`,
);
await run(
  `insert into bins (id, job, parent, name) select 'b' || n, '${TEST_JOB}', case when n < 20 then null else 'b' || n / 10 end, 'Bin ' || n from generate_series(0, 199) n`,
);
await run(
  `insert into keyworded (clip, keyword) select clip, 'k' || (number * 7 + n * 101) % 300 from shown, generate_series(0, 2) n on conflict do nothing`,
);
await run(`insert into binned (bin, clip) select 'b' || number % 200, clip from shown`);
await run(
  `insert into ranges (id, clip, kind, "from", "to", note) select 'r' || number || '-' || n, clip, case n when 0 then 'select' else 'note' end, n * 50, n * 50 + 40, case when number % 9 = 0 then 'soft at the end' else '' end from shown, generate_series(0, 1) n`,
);
const fact = (field: string, words: string, number: string) =>
  run(
    `insert into facts (clip, job, field, source, chosen, words, number) select s.number, j.number, '${field}', 'container', true, ${words}, ${number} from shown s join jobs j on j.id = s.job`,
  );
await fact(
  'rate',
  `(array['25 fps','50 fps','100 fps'])[1 + s.number % 3]`,
  `(array[25,50,100])[1 + s.number % 3]`,
);
await fact('length', `(s.number % 97) || ' s'`, `s.number % 97`);
await fact('codec', `(array['H.264','HEVC','ProRes'])[1 + s.number % 3]`, 'null');
await fact('scene', `(s.number % 120)::text`, 'null');
await fact('size', `(s.number * 1000)::text`, 's.number * 1000');
await fact(
  'recordedAt',
  `to_char(timestamp '2026-05-05 06:00' + s.number * interval '7 seconds', 'YYYY-MM-DD HH24:MI:SS')`,
  `extract(epoch from timestamp '2026-05-05 06:00' + s.number * interval '7 seconds')`,
);
await run(
  `update shown set name = card || '_' || number, recorded = number, text = lower('SLW_D1_' || card || '_' || number || ' ' || card || ' tarn t5 h.264 3840 2160 25 fps mill wheel ' || repeat('word of a fact ', 20) || case when number % 11 = 0 then 'gate' else '' end)`,
);
await run(`update clips set filmstrip = true`);
await opened.close();
