import { and, eq } from 'drizzle-orm';
import { believed, type Statement, type Trust } from '../../../core/facts';
import {
  type Finding,
  type Form,
  imagesIn,
  type Packable,
  type PackClip,
  saidIn,
  type Verdict,
} from '../../../core/handover';
import { isMade } from '../../../core/intake';
import { clipStem, grouped, splitPath, statementsOf } from '../../cards';
import { cards, clips, days, files } from '../../cards/tables';
import { among } from '../../platform/db/among';
import { chosenWords } from '../../facts';
import { requireJob } from '../../jobs';
import { whyAway } from '../away';
import type { InJob } from '../ports';
import { findingsOf } from '../rehearsal';
import { clipsToConnect, type Placed } from '../sides';
import { imageNote, imagesFrom, type ImagesFrom, imagesToGo, pictureOf } from './images';
import { madeOf, type Making } from './made';
import type { SetNow } from './sets';

type FileRow = typeof files.$inferSelect;

/** What makes up the picture of a clip, and its sound, where no proxy stands for it. */
const FOOTAGE = new Set<FileRow['role']>(['original', 'segment', 'still', 'sound']);

/** What is made for the recipient; where footage goes in its place, that keeps its name. */
const RENAMED = new Set<Packable['what']>(['edit', 'used', 'view']);

/** The clips of a set with the files of them that may go, in their order, and what has to be made first; files that are not here say why. */
export async function packClips(
  runtime: InJob,
  set: SetNow,
  form: Form,
): Promise<{ clips: PackClip[]; making: Making[] }> {
  const { db, job } = runtime;
  const { code, trust } = await requireJob(runtime);
  const { ids } = set;
  const rows = await db
    .select({
      id: clips.id,
      card: clips.card,
      camera: cards.camera,
      day: cards.day,
      date: days.date,
      kind: clips.kind,
      state: clips.state,
      original: clips.original,
    })
    .from(clips)
    .innerJoin(cards, and(eq(cards.job, clips.job), eq(cards.id, clips.card)))
    .innerJoin(days, and(eq(days.job, cards.job), eq(days.number, cards.day)))
    .where(and(eq(clips.job, job), among(clips.id, ids)));
  const families = grouped(
    await db.select().from(files).where(among(files.clip, ids)),
    (f) => f.clip,
    (f) => f,
  );
  const { clips: connected } = await clipsToConnect(runtime);
  const placed = new Map(connected.map((c) => [c.clip, c]));
  const madeFrom = await madeOf(runtime, set, form, connected);
  const imagesOf = await imagesForClips(runtime, { form, trust }, families, (id) =>
    madeFrom(id).images.length === 0 ? undefined : placed.get(id),
  );
  const making: Making[] = [];
  const findings = await findingsOf(runtime);
  const known = new Map(rows.map((r) => [r.id, r]));
  const said = await chosenWords(runtime, form.names === 'pattern' ? saidIn(form.namePattern) : []);
  const words = ({ id, camera, card, day, date, original }: (typeof rows)[number]): PackClip['words'] => ({
    ...{ job: code, camera, card, day, date, original, reel: null, scene: null, take: null },
    ...said.get(id),
  });
  const packed = ids.flatMap((id): PackClip[] => {
    const row = known.get(id);
    const family = families.get(id) ?? [];
    const original = family.find((f) => f.role === 'original');
    if (!row || !original) return [];
    const of = placed.get(id);
    const given = givenToEdit(family, of, row.kind);
    const made = madeFrom(id);
    making.push(...made.making);
    const stem = clipStem(original, row.original);
    const images = imagesOf.get(id);
    return [
      {
        ...{ clip: id, stem },
        words: words(row),
        byName: isFoundByName(findings.get(id)),
        files: [
          ...given.files.map((f) => packable(f, 'edit')),
          ...family.filter((f) => isOriginal(f, of, row.kind)).map((f) => packable(f, 'original')),
          ...family.filter((f) => isSound(f, row.kind)).map((f) => packable(f, 'sound')),
          ...family.filter((f) => f.role === 'look').map((f) => packable(f, 'look')),
          ...made.files.flatMap(({ file, what }) =>
            family.filter((f) => f.id === file).map((f) => packable(f, what)),
          ),
          ...(images?.from ? imagesToGo(original, stem, images.from, made.images) : []),
        ].filter((f) => form.media.includes(f.what)),
        notes: [
          ...(row.state === 'read'
            ? given.notes
            : [{ what: 'edit' as const, why: 'not read yet, so that the original goes' }]),
          ...made.notes,
          ...(images ? [{ what: 'used' as const, why: images.why }] : []),
          ...(findings.has(id) && row.kind !== 'sound' ? notesOf(findings.get(id)!.verdict) : []),
        ],
      },
    ];
  });
  // What images are made from was looked for.
  const all = packed.flatMap((p) => p.files).filter((f) => f.image === null);
  const why = await whyAway(runtime, all);
  for (const [i, f] of all.entries()) f.away = why[i]!;
  return { clips: packed, making };
}

/** What the images of clips are made from, and what is said of it: no image goes of a clip whose picture is not here as it was read. */
async function imagesForClips(
  runtime: InJob,
  { form, trust }: { form: Form; trust: Trust },
  families: ReadonlyMap<string, readonly FileRow[]>,
  wanted: (clip: string) => Placed | undefined,
): Promise<Map<string, { from: ImagesFrom | null; why: string }>> {
  const kind = imagesIn(form);
  const clips = [...families.keys()].flatMap((id) => wanted(id) ?? []);
  if (kind === null || clips.length === 0) return new Map();
  const pictures = new Map(clips.map((c) => [c.clip, pictureOf(families.get(c.clip)!)]));
  const all = [...pictures.values()].flat();
  const why = await whyAway(runtime, all);
  const away = new Map(all.flatMap((f, i) => (why[i] === null ? [] : [[f.clip, why[i]!] as const])));
  const stated: Map<string, Statement[]> = await statementsOf(
    runtime.db,
    clips.map((c) => c.clip),
  );
  return new Map(
    clips.map((of) => {
      const from = imagesFrom(kind, of, believed(stated.get(of.clip) ?? [], trust), pictures.get(of.clip)!);
      if (typeof from === 'string') return [of.clip, { from: null, why: `no images of it: ${from}` }];
      const fault = away.get(of.clip);
      return [of.clip, fault ? { from: null, why: fault } : { from, why: imageNote(kind) }];
    }),
  );
}

/** Whether an edit made with a clip finds its original by nothing but its name. */
const isFoundByName = (finding: Finding | undefined): boolean =>
  finding?.verdict === 'connects' &&
  !finding.ways.some((w) => w.result === 'connects' && w.way !== 'name' && w.way !== 'stem');

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
const packable = (
  { id, root, path, role, size, modified, onCard }: FileRow,
  what: Packable['what'],
): Packable => {
  const { stem, extension } = splitPath(path);
  return {
    ...{ file: id, what, root, path, size, modified, onCard },
    ...{ name: `${stem}${extension}`, renamed: RENAMED.has(what) && !FOOTAGE.has(role) },
    ...{ away: null, image: null },
  };
};
