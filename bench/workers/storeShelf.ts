import { sql } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import path from 'node:path';
import { NO_BRIEF } from '../../src/core/facts';
import { cameras, cards, clips, days, files } from '../../src/server/cards/tables';
import { beginJob } from '../../src/server/jobs';
import { openRuntime } from '../../src/server/runtime';
import { TEST_JOB } from '../../src/server/testing/media';

// Fills a data folder with a job of very many read clips, each with a sidecar, for a server that is started on it afterwards:
// `storeShelf.ts <home> <clips>`. Their files do not exist: it is their names that are worked out.

const [home, most] = [process.argv[2]!, Number(process.argv[3])];
const PER_CARD = 500;
const opened = await openRuntime({ home, databaseFolder: path.join(home, 'database'), work: false });
const { db } = opened;
const runtime = opened.inJob(TEST_JOB);
await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
const job = TEST_JOB;
await db.insert(cameras).values({ job, label: 'B', model: 'Tarn T5' });
for (let at = 0; at < most; at += PER_CARD) {
  const n = at / PER_CARD + 1;
  const [day, card] = [Math.ceil(n / 4), `B${String(n).padStart(3, '0')}`];
  await db.insert(days).values({ job, number: day, date: '2026-05-05' }).onConflictDoNothing();
  await db.insert(cards).values({
    job,
    id: card,
    camera: 'B',
    day,
    shape: 'plain',
    root: 'shelf',
    folder: card,
    aside: [],
    proxySuffix: null,
    takenAt: new Date(),
  });
  const some = Array.from({ length: Math.min(PER_CARD, most - at) }, (_, i) => ({
    id: randomUUID(),
    job,
    card,
    original: `T${String(i + 1).padStart(4, '0')}`,
    state: 'read' as const,
    audio: [2],
  }));
  await db.insert(clips).values(some);
  await db.insert(files).values(
    some.flatMap((c) =>
      (['original', 'sidecar'] as const).map((role) => ({
        id: randomUUID(),
        clip: c.id,
        role,
        root: 'shelf',
        path: `${card}/${c.original}.${role === 'original' ? 'MP4' : 'XML'}`,
        suffix: '',
        size: 1e6,
        modified: 1.7e12,
      })),
    ),
  );
}
// What is worked out of facts, as if they had been read.
const brief = { ...NO_BRIEF, rate: { num: 25, den: 1 }, width: 1920, height: 1080, frames: 250 };
await db.execute(sql`update shown set worked_out = revision, brief =
  jsonb_set(${JSON.stringify(brief)}::jsonb, '{recordedAt}', to_jsonb(to_char(timestamp '2026-05-05 06:00' + number * interval '7 seconds', 'YYYY-MM-DD"T"HH24:MI:SS')))::text`);
await opened.close();
