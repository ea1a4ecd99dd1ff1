import { randomUUID } from 'node:crypto';
import { and, eq, inArray } from 'drizzle-orm';
import { type Change, countOf, isGiven, RANGE_WORDS, type Span, spanFault } from '../../core/choose';
import { plural } from '../../core/platform/words';
import { clips } from '../cards/tables';
import { shown } from '../facts/tables';
import { Clash, NotFound, Refused } from '../platform/errors';
import type { Writer } from '../platform/db/transaction';
import { rangesIn, refuseOther } from './known';
import type { Planned, RowChange, Rows } from './rows';
import { keyworded, ranges } from './tables';

type Of<D extends Change['do']> = Extract<Change, { do: D }>;

/** The name of a clip a stretch is of. Throws Refused where the clip cannot have it. */
async function holderOf(tx: Writer, job: string, clip: string, span: Span): Promise<string> {
  const [row] = await tx
    .select({ name: shown.name, brief: shown.brief, kind: clips.kind })
    .from(clips)
    .innerJoin(shown, eq(shown.clip, clips.id))
    .where(and(eq(clips.job, job), eq(clips.id, clip)));
  if (!row) throw new NotFound('This clip is no longer in the job.');
  const fault = spanFault(span, (row.brief && countOf({ ...row.brief, kind: row.kind }))?.frames ?? null);
  if (fault !== null)
    throw new Refused(`${row.name} cannot have this range: ${fault}.`, {
      next: 'Set in and out anew in the viewer.',
    });
  return row.name;
}

export async function addRange(tx: Writer, job: string, change: Of<'addRange'>): Promise<Planned> {
  const { clip, from, to, kind, name, note } = change;
  const of = await holderOf(tx, job, clip, { from, to });
  const [same] = await tx
    .select({ id: ranges.id })
    .from(ranges)
    .where(and(eq(ranges.clip, clip), eq(ranges.from, from), eq(ranges.to, to), eq(ranges.kind, kind)));
  if (same && note.trim() === '' && name.trim() === '')
    return { rows: [], text: `${of}: this ${RANGE_WORDS[kind]} is kept already` };
  const after: Rows['ranges'] = {
    id: randomUUID(),
    clip,
    kind,
    from,
    to,
    name: name.trim(),
    note: note.trim(),
  };
  return {
    rows: [{ table: 'ranges', before: null, after }],
    text: `${of}: ${RANGE_WORDS[kind]} of ${plural(to - from, 'frame')} added`,
  };
}

export async function editRange(tx: Writer, job: string, change: Of<'editRange'>): Promise<Planned> {
  const [before] = await rangesIn(tx, job, [change.range]);
  const { set, was } = change;
  if (was.from !== before!.from || was.to !== before!.to)
    throw new Clash('This range was moved meanwhile. Nothing was changed.', {
      next: 'Look at where it is now, and change it again if that is still meant.',
    });
  const { from: _, to: __, ...rest } = set;
  refuseOther('range', { set: rest, was, now: before! });
  if (!isGiven(before!.kind))
    throw new Refused(`A ${RANGE_WORDS[before!.kind]} says what was found and is not changed.`, {
      next: 'Keep a select of your own there.',
    });
  const after: Rows['ranges'] = {
    ...before!,
    ...(set.kind !== undefined && { kind: set.kind }),
    from: set.from ?? before!.from,
    to: set.to ?? before!.to,
    name: (set.name ?? before!.name).trim(),
    note: (set.note ?? before!.note).trim(),
  };
  const of = await holderOf(tx, job, after.clip, after);
  return {
    rows: [{ table: 'ranges', before: before!, after }],
    text: `${of}: ${RANGE_WORDS[before!.kind]} changed`,
  };
}

export async function removeRanges(tx: Writer, job: string, change: Of<'removeRanges'>): Promise<Planned> {
  const list = await rangesIn(tx, job, change.ranges);
  const words = await tx
    .select()
    .from(keyworded)
    .where(
      inArray(
        keyworded.range,
        list.map((r) => r.id),
      ),
    );
  return {
    rows: [
      ...words.map((k): RowChange => ({ table: 'keyworded', before: k, after: null })),
      ...list.map((r): RowChange => ({ table: 'ranges', before: r, after: null })),
    ],
    text: `${plural(list.length, 'range')} removed from ${plural(new Set(list.map((r) => r.clip)).size, 'clip')}`,
  };
}
