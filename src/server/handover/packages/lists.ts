import { eq } from 'drizzle-orm';
import { RANGE_WORDS } from '../../../core/choose';
import { type List, type Media, MEDIA_FOLDERS, type NewPackage } from '../../../core/handover';
import { csv } from '../../../core/platform/csv';
import { type DiskPath, plainName, shownPath } from '../../../core/platform/names';
import type { Part } from '../../../core/proxies';
import { formatTimecode, timecode } from '../../../core/platform/timecode/timecode';
import { grouped } from '../../cards';
import { keyworded, keywords, ranges } from '../../choose/tables';
import { factsAsCsv } from '../../facts';
import { requireJob } from '../../jobs';
import { among } from '../../platform/db/among';
import { pairs } from '../../proxies/tables';
import { relativeUrl } from '../../platform/files/names';
import { clipsEdit, correctedEdit, stringOutEdit, type There } from '../export';
import type { InJob } from '../ports';
import { clipsToConnect } from '../sides';
import { selectsOf } from './made';
import type { PackedFile } from './plan';

/** A list as it is written at the top of a package. */
export interface ListFile {
  list: List | 'contents';
  name: string;
  text: string;
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

/** A name that every volume takes. */
const fileName = (name: string): string =>
  plainName(name)
    .replace(/[\\/:*?"<>|\u0000-\u001f]+/g, '-')
    .slice(0, 80)
    .replace(/^[. ]|[. ]$/g, '_');

/** The lists that a form asks for, and always one of what the package contains. */
export async function listsOf(runtime: InJob, of: Listed): Promise<ListFile[]> {
  const { form } = of.wanted;
  const out: ListFile[] = [];
  for (const list of form.lists) {
    if (list === 'facts') out.push({ list, name: 'Facts.csv', text: await factsAsCsv(runtime, of.ids) });
    else if (list === 'marks') out.push({ list, name: 'Ranges.csv', text: await marksCsv(runtime, of.ids) });
    else {
      const text = await timelineOf(runtime, of, list);
      if (text !== null) out.push({ list, name: `${fileName(of.name)}.${list}`, text });
    }
  }
  return [...out, { list: 'contents', name: 'Contents.csv', text: await contentsCsv(runtime, of) }];
}

/** The set as a timeline of the files that go; one that came back from an edit counts in the originals' timecode. Null where no clip can be laid into one. */
async function timelineOf(
  runtime: InJob,
  { name, wanted, ids, files }: Listed,
  format: 'otio' | 'edl',
): Promise<string | null> {
  const placeOf = new Map(
    files.filter((f) => f.state !== 'left').map((f) => [`${f.root}\n${f.path}`, f.place] as const),
  );
  const called = (place: DiskPath) => ({ url: relativeUrl(place), name: place.split('/').at(-1)! });
  const parts = await partsThere(runtime, files);
  const there: There = {
    at({ root, path }) {
      const place = placeOf.get(`${root}\n${path}`);
      return place === undefined ? null : called(place);
    },
    part(clip, { from, to }) {
      const found = (parts.get(clip) ?? []).find((p) => p.part.from <= from && p.part.to >= to);
      return found ? { ...called(found.place), part: found.part } : null;
    },
  };
  const { media } = wanted.form;
  const first =
    media.includes('edit') || !['original', 'used'].some((m) => media.includes(m as Media))
      ? 'edit'
      : 'original';
  if (wanted.set.kind === 'edit') return (await correctedEdit(runtime, wanted.set.edit, format, there)).text;
  if (wanted.set.kind === 'stringOut')
    return (await stringOutEdit(runtime, wanted.set.list, format, { first, there })).text;
  const stretches = media.includes('used') ? await selectsOf(runtime, ids) : null;
  return (await clipsEdit(runtime, ids, { name, format, first, there, stretches }))?.text ?? null;
}

/** The used frames that go, by clips: which part of it each is, and where it goes. */
async function partsThere(
  { db }: InJob,
  files: readonly PackedFile[],
): Promise<Map<string, { place: DiskPath; part: Part }[]>> {
  const going = files.filter((f) => f.what === 'used' && f.state !== 'left');
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
  return grouped(
    going.filter((f) => f.clip !== null && partOf.get(f.file)),
    (f) => f.clip!,
    (f) => ({ place: f.place, part: partOf.get(f.file)! }),
  );
}

/** Ranges, notes and keywords: a line for each range, and for each clip that has keywords as a whole. Frames count from 1, as persons do. */
async function marksCsv(runtime: InJob, ids: readonly string[]): Promise<string> {
  const { db } = runtime;
  const marked = grouped(
    await db.select().from(ranges).where(among(ranges.clip, ids)).orderBy(ranges.from),
    (r) => r.clip,
    (r) => r,
  );
  const words = grouped(
    await db
      .select({ clip: keyworded.clip, range: keyworded.range, name: keywords.name })
      .from(keyworded)
      .innerJoin(keywords, eq(keywords.id, keyworded.keyword))
      .where(among(keyworded.clip, ids)),
    (k) => k.clip,
    (k) => k,
  );
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
      start === null || rate === null
        ? ''
        : formatTimecode(timecode(start.frame + frame, start.rate, start.drop));
    const whole = said('');
    return [
      ...(whole === '' ? [] : [[...called, 'Clip', '', '', '', '', '', '', whole]]),
      ...(marked.get(id) ?? []).map((r) => [
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
