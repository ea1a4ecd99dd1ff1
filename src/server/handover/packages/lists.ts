import { RANGE_WORDS } from '../../../core/choose';
import { type Cdl, cdlCollection, cdlOf, chooseFacts } from '../../../core/facts';
import {
  type Form,
  type ImagesOut,
  type List,
  type Media,
  MEDIA_FOLDERS,
  type NewPackage,
  REPORT_WORDS,
  stemOf,
} from '../../../core/handover';
import { csv } from '../../../core/platform/csv';
import { type DiskPath, shownPath } from '../../../core/platform/names';
import { IMAGE_DIGITS, IMAGE_EXTENSION, type Part } from '../../../core/proxies';
import { addressOf, formatTimecode } from '../../../core/platform/timecode/timecode';
import { grouped, statementsOf } from '../../cards';
import { factsAsCsv } from '../../facts';
import { requireJob } from '../../jobs';
import { among } from '../../platform/db/among';
import { NotFound } from '../../platform/errors';
import { inWords } from '../../platform/files/faults';
import { pairs } from '../../proxies/tables';
import { relativeUrl } from '../../platform/files/names';
import { clipsEdit, correctedEdit, pictureTracks, type Side, stringOutEdit, type There } from '../export';
import { fileName } from '../fileName';
import { marksOf } from '../marks';
import type { InJob } from '../ports';
import { makeReport } from '../reports/make';
import { clipsToConnect } from '../sides';
import { binsCollection } from './bins';
import { selectsOf } from './made';
import { imageRuns, isImage } from './makeRun';
import type { PackedFile } from './plan';

/** A list as it is written at the top of a package. */
export interface ListFile {
  list: List | 'contents';
  name: string;
  body: string | Uint8Array;
}

/** What lists are written of. */
export interface Listed {
  name: string;
  wanted: NewPackage;
  /** The clips of the set. */
  ids: readonly string[];
  files: readonly PackedFile[];
  /** Which time it is sent. */
  sending: number;
}

/** The lists that a form asks for, and always one of what the package contains; and which could not be written, and why. */
export async function listsOf(runtime: InJob, of: Listed): Promise<{ lists: ListFile[]; faults: string[] }> {
  const { form, set } = of.wanted;
  const out: ListFile[] = [];
  const faults: string[] = [];
  const there = await inPackage(runtime, of.files);
  const put = (list: ListFile['list'], name: string, body: ListFile['body'] | null): void => {
    if (body !== null) out.push({ list, name, body });
  };
  for (const list of form.lists) {
    if (list === 'facts') put(list, 'Facts.csv', await factsAsCsv(runtime, of.ids));
    else if (list === 'marks') put(list, 'Ranges.csv', await marksCsv(runtime, of.ids));
    else if (list === 'cdl') put(list, 'Looks.ccc', await collectedCdls(runtime, of.ids));
    else if (list === 'otio' || list === 'edl') {
      put(list, `${fileName(of.name)}.${list}`, await timelineOf(runtime, of, there, list));
      if (list === 'edl')
        for (const { words, text } of await furtherTracks(runtime, of, there))
          put(list, `${fileName(of.name)} ${words}.edl`, text);
    } else if (list === 'bins') {
      const how = { name: of.name, first: sideOf(form), there };
      put(list, `${fileName(of.name)} bins.otio`, await binsCollection(runtime, of.ids, how));
    } else {
      const name = `${REPORT_WORDS[list].name}.pdf`;
      try {
        put(list, name, (await makeReport(runtime, { kind: list, set }, 'pdf')).body);
      } catch (e) {
        // The set is gone; without a report the package is all the same what it is.
        if (e instanceof NotFound) throw e;
        faults.push(`${name} was not written: ${inWords(e)}`);
      }
    }
  }
  put('contents', 'Contents.csv', await contentsCsv(runtime, of));
  return { lists: out, faults };
}

/** Clips whose statements are read at once. */
const AT_ONCE = 2000;

/** The CDLs that clips state, by their names; null where none does. */
async function collectedCdls(runtime: InJob, ids: readonly string[]): Promise<string | null> {
  const { trust } = await requireJob(runtime);
  const placed = new Map((await clipsToConnect(runtime)).clips.map((c) => [c.clip, c]));
  const taken = new Set<string>();
  const named = (card: string, stem: string): string => {
    let name = stem;
    for (let n = 1; taken.has(name); n++) name = n === 1 ? `${card} ${stem}` : `${card} ${stem} ${n}`;
    taken.add(name);
    return name;
  };
  const corrections: Cdl[] = [];
  for (let i = 0; i < ids.length; i += AT_ONCE) {
    const some = ids.slice(i, i + AT_ONCE);
    const stated = await statementsOf(runtime.db, some);
    for (const id of some) {
      const of = placed.get(id);
      const cdl = cdlOf(chooseFacts(stated.get(id) ?? [], trust));
      if (of && cdl) corrections.push({ ...cdl, id: named(of.card, stemOf(of.original.name)) });
    }
  }
  return corrections.length === 0 ? null : cdlCollection(corrections);
}

/** Where the files that go are for who reads a list at the top of the package. */
async function inPackage(runtime: InJob, files: readonly PackedFile[]): Promise<There> {
  const placeOf = new Map(
    files
      .filter((f) => f.state !== 'left' && !isImage(f))
      .map((f) => [`${f.root}\n${f.path}`, f.place] as const),
  );
  const called = (place: DiskPath) => ({ url: relativeUrl(place), name: place.split('/').at(-1)! });
  const parts = await partsThere(runtime, files);
  return {
    at({ root, path }) {
      const place = placeOf.get(`${root}\n${path}`);
      return place === undefined ? null : called(place);
    },
    part(clip, { from, to }) {
      const found = (parts.get(clip) ?? []).find((p) => p.part.from <= from && p.part.to >= to);
      if (!found) return null;
      const { place, part, isImages } = found;
      return { ...called(place), part, ...(isImages ? { images: rowFrom(place, part.from) } : {}) };
    },
  };
}

/** Which files a timeline of a package is made of. */
const sideOf = ({ media }: Form): Side =>
  media.includes('edit') || !['original', 'used'].some((m) => media.includes(m as Media))
    ? 'edit'
    : 'original';

/** The set as a timeline of the files that go; one that came back from an edit counts in the originals' timecode. Null where no clip can be laid into one. */
async function timelineOf(
  runtime: InJob,
  { name, wanted: { set, form }, ids }: Listed,
  there: There,
  format: 'otio' | 'edl',
): Promise<string | null> {
  const first = sideOf(form);
  if (set.kind === 'edit') return (await correctedEdit(runtime, set.edit, format, { there })).text;
  if (set.kind === 'stringOut')
    return (await stringOutEdit(runtime, set.list, format, { first, there })).text;
  const stretches = form.media.includes('used') ? await selectsOf(runtime, ids) : null;
  return (await clipsEdit(runtime, ids, { name, format, first, there, stretches }))?.text ?? null;
}

/** A list has one track: those of an edit's pictures that lie above the first have lists of their own. */
async function furtherTracks(
  runtime: InJob,
  { wanted: { set } }: Listed,
  there: There,
): Promise<{ words: string; text: string }[]> {
  if (set.kind !== 'edit') return [];
  const [, ...further] = await pictureTracks(runtime, set.edit);
  return Promise.all(
    further.map(async ({ at, words }) => ({
      words,
      text: (await correctedEdit(runtime, set.edit, 'edl', { there, track: at })).text,
    })),
  );
}

/** A part of a clip that goes: as a file, or as images of which this is the first. */
interface PartGoing {
  place: DiskPath;
  part: Part;
  isImages: boolean;
}

/** The used frames that go, by clips: which part of it each is, and where it goes. */
async function partsThere({ db }: InJob, files: readonly PackedFile[]): Promise<Map<string, PartGoing[]>> {
  const images = imageRuns(files.filter((f) => f.state === 'verified').filter(isImage), Infinity);
  const going = files.filter((f) => f.what === 'used' && f.state !== 'left' && !isImage(f));
  const partOf = new Map(
    (
      await db
        .select({ file: pairs.file, part: pairs.part })
        .from(pairs)
        .where(
          among(
            pairs.file,
            going.map((f) => f.file),
          ),
        )
    ).map((p) => [p.file, p.part]),
  );
  const parts = [
    ...going.flatMap(({ clip, file, place }) => {
      const part = partOf.get(file);
      return clip === null || !part ? [] : [{ clip, of: { place, part, isImages: false } }];
    }),
    ...images.map((run) => {
      const [{ clip, place, image }, last] = [run[0]!, run.at(-1)!];
      const part = { from: image.frame, to: last.image.frame + 1 };
      return { clip: clip!, of: { place, part, isImages: true } };
    }),
  ];
  return grouped(
    parts,
    (p) => p.clip,
    (p) => p.of,
  );
}

/** A row of images as a timeline refers to it, by where the image of its first frame goes. */
function rowFrom(place: DiskPath, frame: number): ImagesOut {
  const url = relativeUrl(place);
  const at = url.lastIndexOf('/');
  return {
    folder: url.slice(0, at),
    before: url.slice(at + 1, -IMAGE_DIGITS - IMAGE_EXTENSION.length),
    ...{ after: IMAGE_EXTENSION, first: frame + 1, digits: IMAGE_DIGITS },
  };
}

/** Ranges, notes and keywords: a line for each range, and for each clip that has keywords as a whole. Frames count from 1, as persons do. */
async function marksCsv(runtime: InJob, ids: readonly string[]): Promise<string> {
  const { ranges, words } = await marksOf(runtime, ids);
  const placed = new Map((await clipsToConnect(runtime)).clips.map((c) => [c.clip, c]));
  const rows = ids.flatMap((id): (string | number)[][] => {
    const of = placed.get(id);
    if (!of) return [];
    const called = [of.original.name, of.card];
    const said = (range: string): string =>
      [...new Set((words.get(id) ?? []).filter((k) => k.range === range).map((k) => k.name))]
        .sort()
        .join(', ');
    const { start, rate } = of.original;
    const at = (frame: number): string =>
      start === null || rate === null ? '' : formatTimecode(addressOf(start, frame, rate));
    const whole = said('');
    return [
      ...(whole === '' ? [] : [[...called, 'Clip', '', '', '', '', '', '', whole]]),
      ...(ranges.get(id) ?? []).map((r) => [
        ...[...called, RANGE_WORDS[r.kind], r.from + 1, r.to, at(r.from), at(r.to - 1)],
        ...[r.name, r.note, said(r.id)],
      ]),
    ];
  });
  return csv(
    [
      'File',
      'Card',
      'Kind',
      'First frame',
      'Last frame',
      'First timecode',
      'Last timecode',
      'Name',
      'Note',
      'Keywords',
    ],
    rows,
  );
}

const SENDING = {
  fresh: 'new',
  changed: 'changed',
  same: 'as before',
  left: 'no longer part of it',
  failed: 'could not be copied',
};

/** How a file fares in a sending, in words. */
const newsOf = (f: PackedFile, sending: number): string => {
  if (f.state === 'left') return SENDING.left;
  if (f.state !== 'verified') return SENDING.failed;
  if (f.sending !== sending) return SENDING.same;
  return f.replaces ? SENDING.changed : SENDING.fresh;
};

/** Every file of a package: what it is, of which clip, and whether it is new in this sending. */
async function contentsCsv(runtime: InJob, { wanted, files, sending }: Listed): Promise<string> {
  const job = await requireJob(runtime);
  const placed = new Map((await clipsToConnect(runtime)).clips.map((c) => [c.clip, c]));
  const kindOf = (what: Media | 'list') => (what === 'list' ? 'List' : MEDIA_FOLDERS[what]);
  return csv(
    ['File', 'Kind', 'Original', 'Card', 'Bytes', `Sending ${sending}`, 'Job', 'For'],
    files
      .filter((f) => f.what !== 'list')
      .map((f) => {
        const of = f.clip === null ? undefined : placed.get(f.clip);
        return [
          ...[shownPath(f.place), kindOf(f.what), of?.original.name ?? '', of?.card ?? '', f.size],
          ...[newsOf(f, sending), job.code, wanted.to],
        ];
      }),
  );
}
