import { NextSteps } from '../../core/next';
import { join } from '../../core/platform/names';
import { OPEN_WORK } from '../../core/platform/shapes';
import { and, eq, inArray } from 'drizzle-orm';
import { randomUUID } from 'node:crypto';
import type { FamilyMember, RecognisedCard } from '../../core/intake/recognise';
import type { CardChoice, TakeIn } from '../../core/intake/shapes';
import { UNDER_WAY } from '../../core/offload';
import { among } from '../platform/db/among';
import { cameras, cards, clips, days, files } from '../cards/tables';
import { offloads } from '../offload/tables';
import { work } from '../platform/work/tables';
import { Clash, NotFound, Refused } from '../platform/errors';
import type { InJob, Ports } from './ports';
import { keepIntake, requireJob } from '../jobs';
import { wantNext } from '../next';
import { writeLog } from '../logbook';
import { samplesOf } from '../custody';
import { usedAt } from './look';
import { isCard, recogniseFolder, clipViews, type Listing } from '../cards';
import { joinPath } from '../platform/files/names';

/** Clips or files stored by one statement. */
const BATCH = 200;

/** Takes cards in, in place: stores what was recognised and queues the reading. Nothing on disk is touched. */
export function takeIn(runtime: InJob, wanted: TakeIn): Promise<{ cards: { id: string; clips: number }[] }> {
  return runtime.exclusively(async () => {
    const job = await requireJob(runtime);
    const next = NextSteps.parse(wanted.next ?? {});
    const { root, at, found } = await recogniseFolder(
      runtime,
      wanted.root,
      wanted.path,
      wanted.singles ?? [],
    );
    const taken: { id: string; clips: number }[] = [];
    const ids: string[] = [];
    const cardOf = (folder: string) => found.cards.find((c) => c.folder === folder);
    for (const choice of wanted.cards) {
      const card = cardOf(choice.folder);
      if (!card)
        throw new NotFound(`There is no card in “${join(wanted.path, choice.folder)}” now.`, {
          file: choice.folder,
          next: 'Look at the folder again.',
        });
      const { same, other } = await usedAt(runtime, root.id, card, join(wanted.path, card.folder));
      if (same.length > 0)
        throw new Clash(
          `“${join(wanted.path, card.folder)}” has already been taken in, as ${same.join(', ')}.`,
          { file: choice.folder },
        );
      if (other.length > 0)
        throw new Clash(
          `“${join(wanted.path, card.folder)}” was taken in as ${other.join(', ')}, and holds other files now.`,
          { file: choice.folder, next: 'Copy this card, or put its files into a folder of their own.' },
        );
    }
    await checkChoices(runtime, wanted.cards);
    const samples = new Map(
      await Promise.all(
        wanted.cards.map(
          async ({ folder }) =>
            [folder, await samplesOf(cardOf(folder)!.families, joinPath(at, folder))] as const,
        ),
      ),
    );
    await runtime.db.transaction(async (tx) => {
      for (const choice of wanted.cards) {
        const card = cardOf(choice.folder)!;
        const stored = await storeCard(tx, runtime.job, choice, card, {
          root: root.id,
          folder: join(wanted.path, card.folder),
          samples: samples.get(choice.folder)!,
        });
        for (const clip of stored) ids.push(clip);
        taken.push({ id: choice.cardId, clips: stored.length });
      }
      await wantNext(tx, runtime.job, ids, next);
      // Marks are of these cards; the steps are offered with the next.
      await keepIntake(tx, job, { next: { ...next, keywords: [], bin: [] } });
    });
    await runtime.queue.add('read', ids);
    for (const t of taken)
      await writeLog(
        runtime,
        'takeIn',
        `Took in ${t.id}: ${t.clips} ${t.clips === 1 ? 'clip' : 'clips'}, in place`,
      );
    runtime.events.changed('cards', 'clips', 'job', 'log', 'choose', 'next');
    return { cards: taken };
  });
}

type Transaction = Parameters<Parameters<Ports['db']['transaction']>[0]>[0];

/** Where a card is; `physical` is the card itself where it is copied, for files that are still on it. */
export interface CardPlace {
  root: string;
  folder: string;
  samples: ReadonlyMap<string, string>;
  physical?: string;
}

/** A file of a clip where it is. */
function fileRow(clip: string, f: FamilyMember, from: CardPlace): typeof files.$inferInsert {
  const place = join(from.folder, f.path);
  return {
    id: randomUUID(),
    clip,
    role: f.role,
    root: from.root,
    path: place,
    takenRoot: from.root,
    takenPath: place,
    suffix: f.suffix,
    size: f.size,
    modified: f.modified,
    sample: f.role === 'original' ? (from.samples.get(f.path) ?? null) : null,
    onCard: from.physical ?? null,
  };
}

/** Stores a card with its clips and their files where they stand. A card that is in the job already gets the clips added. Returns the clips' ids. */
export async function storeCard(
  tx: Transaction,
  job: string,
  choice: CardChoice,
  card: RecognisedCard,
  from: CardPlace,
): Promise<string[]> {
  await tx.insert(cameras).values({ job, label: choice.camera, model: null }).onConflictDoNothing();
  await tx.insert(days).values({ job, number: choice.day, date: choice.date }).onConflictDoNothing();
  await tx
    .insert(cards)
    .values({
      job,
      id: choice.cardId,
      physical: from.physical ?? null,
      camera: choice.camera,
      day: choice.day,
      shape: card.shape.id,
      root: from.root,
      folder: from.folder,
      aside: card.aside,
      proxySuffix: card.proxySuffix,
      takenAt: new Date(),
    })
    .onConflictDoNothing();
  const families = card.families.map((family) => ({ clip: randomUUID(), family }));
  for (let i = 0; i < families.length; i += BATCH) {
    const some = families.slice(i, i + BATCH);
    await tx.insert(clips).values(
      some.map(({ clip, family }) => ({
        id: clip,
        job,
        card: choice.cardId,
        original: family.stem,
        kind: family.kind,
        state: 'waiting' as const,
        audio: [],
      })),
    );
    const rows = some.flatMap(({ clip, family }) => family.files.map((f) => fileRow(clip, f, from)));
    for (let n = 0; n < rows.length; n += BATCH) await tx.insert(files).values(rows.slice(n, n + BATCH));
  }
  return families.map((f) => f.clip);
}

/** Further files of a clip that is in the job already, as a segment that was recorded after it was taken in. */
export async function addMembers(
  tx: Transaction,
  clip: string,
  members: readonly FamilyMember[],
  from: Pick<CardPlace, 'root' | 'folder'>,
): Promise<void> {
  if (members.length > 0)
    await tx.insert(files).values(members.map((f) => fileRow(clip, f, { ...from, samples: new Map() })));
}

/** Takes a card out of the job, as if it had never been taken in. Nothing on disk is touched. Refused once its clips are named. */
export function forgetCard(runtime: InJob & Listing, id: string): Promise<void> {
  return runtime.exclusively(async () => {
    const [copying] = await runtime.db
      .select({ id: offloads.id })
      .from(offloads)
      .innerJoin(cards, eq(cards.physical, offloads.physical))
      .where(
        and(isCard(runtime.job, id), eq(offloads.job, runtime.job), inArray(offloads.state, [...UNDER_WAY])),
      );
    if (copying)
      throw new Refused(`${id} is being copied.`, { next: 'Let the copy finish, or cancel it first.' });
    const views = await clipViews(runtime, id);
    if (views.some((v) => v.named))
      throw new Refused(`Clips of ${id} have been named.`, { next: 'Undo the naming in the logbook first.' });
    const ids = views.map((v) => v.id);
    if (ids.length > 0) {
      const open = await runtime.db
        .select({ id: work.id })
        .from(work)
        .where(and(among(work.clip, ids), inArray(work.state, [...OPEN_WORK])));
      await runtime.queue.cancel(open.map((o) => o.id));
    }
    await runtime.db.transaction(async (tx) => {
      const { job } = runtime;
      await tx.delete(clips).where(and(eq(clips.job, job), eq(clips.card, id)));
      const [gone] = await tx.delete(cards).where(isCard(job, id)).returning({ day: cards.day });
      if (!gone) return;
      // A day that this card alone had brought goes with it, so that its date can be given anew.
      const others = and(eq(cards.job, job), eq(cards.day, gone.day));
      if ((await tx.$count(cards, others)) === 0)
        await tx.delete(days).where(and(eq(days.job, job), eq(days.number, gone.day)));
    });
    await writeLog(
      runtime,
      'takeIn',
      `Forgot ${id}: ${views.length} ${views.length === 1 ? 'clip' : 'clips'}, left on disk as they are`,
    );
    runtime.events.changed('cards', 'clips', 'job', 'log', 'work');
  });
}

/** Refuses ids that are taken or given twice, and days whose date is another. The ids in `own` are those of the very card that is taken. */
export async function checkChoices(
  runtime: InJob,
  choices: readonly CardChoice[],
  own: readonly string[] = [],
): Promise<void> {
  const ids = choices.map((c) => c.cardId);
  const twice = ids.find((id, i) => ids.indexOf(id) !== i);
  if (twice)
    throw new Refused(`Two cards cannot both be ${twice}.`, { next: 'Give one of them another id.' });
  const [taken] = await runtime.db
    .select({ id: cards.id })
    .from(cards)
    .where(
      and(
        eq(cards.job, runtime.job),
        inArray(
          cards.id,
          ids.filter((id) => !own.includes(id)),
        ),
      ),
    );
  if (taken)
    throw new Clash(`There is a card ${taken.id} in this job already.`, { next: 'Choose another card id.' });
  for (const day of await runtime.db.select().from(days).where(eq(days.job, runtime.job))) {
    const other = choices.find(
      (c) => c.day === day.number && c.date !== null && day.date !== null && c.date !== day.date,
    );
    if (other)
      throw new Clash(
        `Day ${day.number} is ${day.date}, but ${other.cardId} was recorded on ${other.date}.`,
        { next: 'Choose another day number for it.' },
      );
  }
}
