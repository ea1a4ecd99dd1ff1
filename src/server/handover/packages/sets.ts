import { asValue } from '../../../core/choose';
import type { ClipSet } from '../../../core/handover';
import type { Part } from '../../../core/proxies';
import { findIds, stringOutDetail } from '../../choose';
import { bins } from '../../choose/tables';
import { requireJob } from '../../jobs';
import { NotFound } from '../../platform/errors';
import { and, eq } from 'drizzle-orm';
import { grouped } from '../../cards';
import { laidOf, usesOf } from '../edits';
import type { InJob } from '../ports';

/** The clips of a set as they are now, in their order, and what it is called. */
export interface SetNow {
  name: string;
  ids: string[];
  /** The stretches of them that are used, by the clips' ids; null where that is what is selected. */
  used: ReadonlyMap<string, Part[]> | null;
}

/** Throws NotFound where what names it is gone. */
export async function clipsOfSet(runtime: InJob, set: ClipSet): Promise<SetNow> {
  const found = (query: string, bin: string | null = null) =>
    findIds(runtime, { query, bin, by: 'none', sort: null, offset: 0, limit: 100_000 });
  switch (set.kind) {
    case 'job':
      return { name: (await requireJob(runtime)).name, ids: await found(''), used: null };
    case 'day':
      return { name: `Day ${set.day}`, ids: await found(`day is ${set.day}`), used: null };
    case 'card':
      return { name: set.card, ids: await found(`card is ${asValue(set.card)}`), used: null };
    case 'bin': {
      const [bin] = await runtime.db
        .select({ name: bins.name })
        .from(bins)
        .where(and(eq(bins.job, runtime.job), eq(bins.id, set.bin)));
      if (!bin) throw new NotFound('This bin was removed meanwhile.', { next: 'Choose another.' });
      return { name: bin.name, ids: await found('', set.bin), used: null };
    }
    case 'search':
      return { name: set.query, ids: await found(set.query), used: null };
    case 'stringOut': {
      const { name, parts } = await stringOutDetail(runtime, set.list);
      return { name, ids: [...new Set(parts.map((p) => p.clip))], used: byClip(parts) };
    }
    case 'edit': {
      const { row, laid } = await laidOf(runtime, set.edit);
      const found = laid.flat().filter((l) => l.verdict !== 'missing');
      return {
        name: row.name,
        ids: [...new Set(found.flatMap((l) => l.clip ?? []))],
        used: byClip(usesOf(laid)),
      };
    }
  }
}

const byClip = (parts: readonly (Part & { clip: string })[]): Map<string, Part[]> =>
  grouped(
    parts,
    (p) => p.clip,
    ({ from, to }) => ({ from, to }),
  );
