import { and, eq } from 'drizzle-orm';
import type { Form, Packable, PackClip, Verdict } from '../../../core/handover';
import { isMade } from '../../../core/intake';
import { clipStem, grouped, splitPath } from '../../cards';
import { cards, clips, files } from '../../cards/tables';
import { among } from '../../platform/db/among';
import { whyAway } from '../away';
import type { InJob } from '../ports';
import { verdictsOf } from '../rehearsal';
import { clipsToConnect, type Placed } from '../sides';
import { madeOf, type Making } from './made';
import type { SetNow } from './sets';

type FileRow = typeof files.$inferSelect;

/** What makes up the picture of a clip, and its sound, where no proxy stands for it. */
const FOOTAGE = new Set<FileRow['role']>(['original', 'segment', 'still', 'sound']);

/** The clips of a set with the files of them that may go, in their order, and what has to be made first; files that are not here say why. */
export async function packClips(
  runtime: InJob,
  set: SetNow,
  form: Form,
): Promise<{ clips: PackClip[]; making: Making[] }> {
  const { db, job } = runtime;
  const { ids } = set;
  const rows = await db
    .select({
      id: clips.id,
      card: clips.card,
      day: cards.day,
      kind: clips.kind,
      state: clips.state,
      original: clips.original,
    })
    .from(clips)
    .innerJoin(cards, and(eq(cards.job, clips.job), eq(cards.id, clips.card)))
    .where(and(eq(clips.job, job), among(clips.id, ids)));
  const families = grouped(
    await db.select().from(files).where(among(files.clip, ids)),
    (f) => f.clip,
    (f) => f,
  );
  const { clips: connected } = await clipsToConnect(runtime);
  const placed = new Map(connected.map((c) => [c.clip, c]));
  const madeFrom = await madeOf(runtime, set, form, connected);
  const making: Making[] = [];
  const verdicts = await verdictsOf(runtime);
  const known = new Map(rows.map((r) => [r.id, r]));
  const packed = ids.flatMap((id): PackClip[] => {
    const row = known.get(id);
    const family = families.get(id) ?? [];
    const original = family.find((f) => f.role === 'original');
    if (!row || !original) return [];
    const of = placed.get(id);
    const given = givenToEdit(family, of, row.kind);
    const made = madeFrom(id);
    making.push(...made.making);
    return [
      {
        ...{ clip: id, card: row.card, day: row.day, stem: clipStem(original, row.original) },
        files: [
          ...given.files.map((f) => packable(f, 'edit')),
          ...family.filter((f) => isOriginal(f, of, row.kind)).map((f) => packable(f, 'original')),
          ...family.filter((f) => isSound(f, row.kind)).map((f) => packable(f, 'sound')),
          ...family.filter((f) => f.role === 'look').map((f) => packable(f, 'look')),
          ...made.files.flatMap(({ file, what }) =>
            family.filter((f) => f.id === file).map((f) => packable(f, what)),
          ),
        ].filter((f) => form.media.includes(f.what)),
        notes: [
          ...(row.state === 'read'
            ? given.notes
            : [{ what: 'edit' as const, why: 'not read yet, so that the original goes' }]),
          ...made.notes,
          ...(verdicts.has(id) && row.kind !== 'sound' ? notesOf(verdicts.get(id)!) : []),
        ],
      },
    ];
  });
  const all = packed.flatMap((p) => p.files);
  const why = await whyAway(runtime, all);
  for (const [i, f] of all.entries()) f.away = why[i]!;
  return { clips: packed, making };
}

/** What is said of a clip whose edit would not find its original. */
const notesOf = (verdict: Verdict): PackClip['notes'] =>
  verdict === 'connects'
    ? []
    : [
        {
          what: 'edit',
          why:
            verdict === 'fails'
              ? 'an edit made with it will not connect to the original: mend it in the relink rehearsal first'
              : 'an edit made with it connects to more than one original: see the relink rehearsal',
        },
      ];

/** What the edit is given of a clip; of a recorder's sound nothing but itself, as sound. */
function givenToEdit(
  family: readonly FileRow[],
  of: Placed | undefined,
  kind: string,
): { files: FileRow[]; notes: PackClip['notes'] } {
  if (kind === 'sound') return { files: [], notes: [] };
  const footage = () => family.filter((f) => FOOTAGE.has(f.role));
  if (!of) return { files: footage(), notes: [] };
  const given = family.find((f) =>
    of.file === null ? f.root === of.places.edit.root && f.path === of.places.edit.path : f.id === of.file,
  );
  if (!given || FOOTAGE.has(given.role))
    return {
      files: footage(),
      notes: kind === 'still' ? [] : [{ what: 'edit', why: 'no proxy, so that the original goes' }],
    };
  const why =
    of.pair?.state === 'mismatched'
      ? `the proxy does not match its original: ${of.pair.reason}`
      : of.pair && of.pair.state !== 'proven'
        ? 'the proxy is not proven to match its original'
        : null;
  return { files: [given], notes: why === null ? [] : [{ what: 'edit', why }] };
}

/** What came from the camera; and a rewrap that stands in for it at the finishing side. */
const isOriginal = (f: FileRow, of: Placed | undefined, kind: string): boolean =>
  kind !== 'sound' &&
  (!isMade(f.role) || (f.root === of?.places.original.root && f.path === of.places.original.path));

const isSound = (f: FileRow, kind: string): boolean =>
  f.role === 'sound' || (kind === 'sound' && !isMade(f.role));

/** Said to be there until it was looked for. */
const packable = ({ id, root, path, size, modified, onCard }: FileRow, what: Packable['what']): Packable => {
  const { stem, extension } = splitPath(path);
  return {
    ...{ file: id, what, root, path, size, modified, onCard },
    ...{ name: `${stem}${extension}`, away: null },
  };
};
