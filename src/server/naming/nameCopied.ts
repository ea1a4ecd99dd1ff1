import { and, eq, inArray, isNotNull, sql } from 'drizzle-orm';
import { namingRequest } from '../../core/naming/shapes';
import { plural } from '../../core/platform/words';
import { OPEN_WORK } from '../../core/platform/shapes';
import type { InJob } from './ports';
import type { NameCopied } from '../offload';
import { clipsOf } from '../cards';
import { clips, files } from '../cards/tables';
import { offloadFiles } from '../offload/tables';
import { work } from '../platform/work/tables';
import { messageOf } from '../platform/errors';
import { applyNaming } from './applyPlan';
import { planRest, settingsOf } from './planRest';

/**
 * Names the clips of a copying that are on the shelf, once all of them are read. Those that clash stay where they were
 * copied to, and are said.
 */
export async function nameCopied(
  runtime: InJob,
  ...[row, halted]: Parameters<NameCopied>
): ReturnType<NameCopied> {
  const withState = async (states: (typeof offloadFiles.$inferSelect)['state'][]): Promise<string[]> =>
    (
      await runtime.db
        .selectDistinct({ clip: files.clip })
        .from(offloadFiles)
        .innerJoin(files, eq(files.id, offloadFiles.file))
        .where(
          and(
            eq(offloadFiles.offload, row.id),
            inArray(offloadFiles.state, states),
            isNotNull(offloadFiles.file),
          ),
        )
    ).map((r) => r.clip);
  // A family is named whole or not at all: one of which a file is missing waits for it.
  const broken = new Set(await withState(['failed', 'waiting']));
  const mine = (await withState(['verified'])).filter((clip) => !broken.has(clip));
  if (mine.length === 0) return { fault: null };
  for (;;) {
    const [open] = await runtime.db
      .select({ n: sql<number>`count(*)::int` })
      .from(work)
      .where(
        and(
          inArray(work.kind, ['read', 'rest']),
          inArray(work.state, [...OPEN_WORK]),
          inArray(work.clip, clipsOf(runtime.db, row.job, row.card)),
        ),
      );
    if (!open || open.n === 0) break;
    if (halted()) return { fault: null };
    await new Promise((r) => setTimeout(r, 300));
  }
  const others = (await clipsOf(runtime.db, row.job, row.card))
    .map((c) => c.id)
    .filter((id) => !mine.includes(id));
  const { request, preview, stopped } = await planRest(
    runtime,
    namingRequest({ ...(await settingsOf(runtime)), cards: [row.card], without: others }),
  );
  const [unreadable] = await runtime.db
    .select({ original: clips.original, fault: clips.fault })
    .from(clips)
    .where(
      and(
        eq(clips.job, row.job),
        eq(clips.card, row.card),
        eq(clips.state, 'unreadable'),
        inArray(clips.id, mine.slice(0, 10_000)),
      ),
    );
  const unread = unreadable
    ? `${unreadable.original} was copied as it is on the card, but cannot be read: ${unreadable.fault}.`
    : null;
  const fault =
    stopped.length > 0
      ? `${plural(stopped.length, 'clip')} kept the camera’s name in ${row.destinations.find((d) => d.kind === 'shelf')?.folder} (${stopped[0]!.row.original}: ${stopped[0]!.why}). Name them on the naming bench.`
      : unread;
  if (preview.stops > 0 || preview.steps === 0) return { fault };
  const result = await applyNaming(runtime, { ...request, fingerprint: preview.fingerprint }).catch(
    (e: unknown) => ({ failed: [{ file: '', fault: messageOf(e) }] }),
  );
  return {
    fault: result.failed.length > 0 ? `${fault ?? ''} Naming: ${result.failed[0]!.fault}`.trim() : fault,
  };
}
