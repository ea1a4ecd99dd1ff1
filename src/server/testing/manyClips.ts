import { eq } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import path from 'node:path';
import type { Statement } from '../../core/facts/catalogue';
import { statementsOf } from '../cards';
import { keepReadings } from '../facts/workOut';
import { cameras, cards, clips, files } from '../cards/tables';
import { work } from '../platform/work/tables';
import { takeIn } from '../intake';
import { beginJob } from '../jobs';
import { addRoot } from '../places';
import type { InJob, Runtime } from '../runtime';
import { makeClip } from './media';

const PER_CARD = 500;

/** Takes three clips of several rates in, from a folder that is made for them, and stores others that are like them until the job has `most`. */
export async function storeJobOfMany(runtime: InJob, source: string, most: number): Promise<void> {
  for (const [name, rate] of [
    ['T0001', '25'],
    ['T0002', '50'],
    ['T0003', '30000/1001'],
  ] as const)
    makeClip(path.join(source, 'B001', 'CLIP', `${name}.MP4`), { rate });
  await beginJob(runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, runtime.job);
  const root = await addRoot(runtime, { kind: 'source', path: source });
  await takeIn(runtime, {
    root: root.id,
    path: '',
    cards: [{ folder: 'B001', camera: 'B', cardId: 'B001', day: 1, date: '2026-05-06' }],
  });
  await runtime.queue.drainKind('read');
  await storeManyClips(runtime, most);
}

/**
 * Stores clips that are like those already read in the job, with names and reels of their own, until the job has `most`, on
 * cards of 500 of camera X. Their files do not exist: it is the lists of them that are tried. Nothing is left to be worked on.
 */
export async function storeManyClips(runtime: Runtime, most: number): Promise<void> {
  const { db } = runtime;
  const patterns = await db.select().from(clips).where(eq(clips.state, 'read'));
  const stated = await statementsOf(
    db,
    patterns.map((p) => p.id),
  );
  const [like] = await db.select().from(cards).limit(1);
  await db.insert(cameras).values({ job: like!.job, label: 'X', model: null }).onConflictDoNothing();
  for (let i = patterns.length; i < most; i += PER_CARD) {
    const card = `X${String(1 + Math.floor(i / PER_CARD)).padStart(3, '0')}`;
    await db.insert(cards).values({ ...like!, id: card, camera: 'X', aside: [], clips: 0 });
    const some = Array.from({ length: Math.min(PER_CARD, most - i) }, (_, n) => {
      const of = patterns[(i + n) % patterns.length]!;
      return {
        clip: { ...of, id: randomUUID(), card, original: `M${String(i + n).padStart(6, '0')}` },
        stated: [
          ...stated.get(of.id)!.filter((s) => s.source !== 'name'),
          { field: 'reel', source: 'name', value: { type: 'text', text: card } },
        ] satisfies Statement[],
      };
    });
    await db.insert(clips).values(some.map((c) => c.clip));
    await db.insert(files).values(
      some.map(({ clip: c }) => ({
        id: randomUUID(),
        clip: c.id,
        role: 'original' as const,
        root: like!.root,
        path: `gone/${card}/${c.original}.MP4`,
        suffix: '',
        size: 1e6,
        modified: 1.7e12,
      })),
    );
    await db.transaction((tx) =>
      keepReadings(tx, like!.job, new Map(some.map((c) => [c.clip.id, c.stated]))),
    );
  }
  await db.delete(work);
}
