import { type PlayPart, RANGE_WORDS, SOUND_RATE } from '../../core/choose';
import {
  corrected,
  type Edit,
  type EditEvent,
  type EditTrack,
  type EventOut,
  firstFrame,
  type Held,
  type MediaOut,
  stemOf,
  trackWords,
  writeEdl,
  writeOtio,
} from '../../core/handover';
import { countsTimecode, fps, mostFrequent, type Rate } from '../../core/platform/timecode/rate';
import type { Part } from '../../core/proxies';
import { canDrop, parseTimecode, seconds } from '../../core/platform/timecode/timecode';
import { splitPath } from '../cards';
import { stringOutDetail } from '../choose';
import { fileUrl, joinPath } from '../platform/files/names';
import { listRoots } from '../places';
import { NotFound, Refused } from '../platform/errors';
import { laidOf } from './edits';
import { marksOf } from './marks';
import type { InJob } from './ports';
import { clipsToConnect, type FilePlace, inFrames, type Placed } from './sides';

export type TimelineFormat = 'otio' | 'edl';
/** A timeline as a file. */
export interface TimelineFile {
  name: string;
  text: string;
}

/** Which files a timeline is made of: what is cut with, or what the finishing side holds. */
export type Side = 'edit' | 'original';
/** Where files are for who reads the timeline, and what they are called there; null for what is nowhere for them. */
export interface There {
  at(place: FilePlace): { url: string; name: string } | null;
  /** A file that has this part of a clip alone, or a little more. */
  part?(clip: string, of: Part): PartThere | null;
}

/** A file of a part of a clip, or a row of images of its frames. */
export interface PartThere extends Pick<MediaOut, 'url' | 'name' | 'images'> {
  part: Part;
}

/** Files where they are on the shelf. */
async function onShelf(runtime: InJob): Promise<There> {
  const folders = new Map((await listRoots(runtime)).map((r) => [r.id, r.path]));
  return {
    at({ root, path }) {
      const folder = folders.get(root);
      if (folder === undefined) return null;
      const { stem, extension } = splitPath(path);
      return { url: fileUrl(joinPath(folder, path)), name: `${stem}${extension}` };
    },
  };
}

/** What stands beside events in a timeline: files of their clips, and what was marked on them. */
export async function besideOf(
  runtime: InJob,
  clips: readonly Placed[],
  there: There,
): Promise<(of: Placed, first: Side, stretch: Part | null) => EventOut> {
  const { ranges, words } = await marksOf(
    runtime,
    clips.map((c) => c.clip),
  );
  const mediaOf = (held: Held, place: FilePlace): MediaOut | null => {
    const at = there.at(place);
    const from = firstFrame(held);
    if (at === null || held.rate === null || held.frames === null || from === null) return null;
    return { ...at, from, frames: held.frames, rate: held.rate };
  };
  /** The used frames alone come before all of the clip. */
  const partOf = (of: Placed, stretch: Part | null): MediaOut | null => {
    const found = stretch && there.part?.(of.clip, stretch);
    const start = firstFrame(of.original);
    const { rate } = of.original;
    if (!found || start === null || rate === null) return null;
    const { part, ...file } = found;
    return { ...file, from: start + part.from, frames: part.to - part.from, rate };
  };
  return (of, first, stretch) => {
    const [edit, original] = [mediaOf(of.edit, of.places.edit), mediaOf(of.original, of.places.original)];
    const part = partOf(of, stretch);
    const named: [string, MediaOut | null][] = part
      ? [
          ['DEFAULT_MEDIA', part],
          ['original', original],
        ]
      : first === 'edit' && of.file !== null
        ? [
            ['DEFAULT_MEDIA', edit],
            ['original', original],
          ]
        : [
            ['DEFAULT_MEDIA', original],
            ...(of.file === null ? [] : ([['edit', edit]] satisfies [string, MediaOut | null][])),
          ];
    const held = first === 'edit' ? of.edit : of.original;
    const start = firstFrame(held) ?? 0;
    const rate = of.original.sound ? SOUND_RATE : (of.original.rate ?? SOUND_RATE);
    const marksFrom =
      of.original.sound && held.start
        ? Math.round(fps(SOUND_RATE) * seconds(held.start.frame, held.start.rate))
        : start;
    const said = words.get(of.clip) ?? [];
    return {
      media: named.flatMap(([key, media]) => (media ? [[key, media]] : [])),
      marks: [
        ...(ranges.get(of.clip) ?? []).map((r) => ({
          name: r.name || RANGE_WORDS[r.kind],
          note: [r.note, ...said.filter((k) => k.range === r.id).map((k) => k.name)]
            .filter(Boolean)
            .join(', '),
          ...{ from: marksFrom + r.from, frames: r.to - r.from, rate },
          colour: r.kind === 'select' ? 'GREEN' : r.kind === 'reject' ? 'RED' : 'YELLOW',
        })),
        ...said
          .filter((k) => k.range === '')
          .map((k) => ({ name: k.name, note: 'keyword', from: marksFrom, frames: 1, rate, colour: 'BLUE' })),
      ],
      facts: { card: of.card, camera: of.camera },
    };
  };
}

/**
 * An edit with its source ranges in the originals' timecode and by their names, as a file. A list is of its first track of pictures, or of
 * `track`, counted from 0.
 */
export async function correctedEdit(
  runtime: InJob,
  id: string,
  format: TimelineFormat,
  { there, track }: { there?: There; track?: number } = {},
): Promise<TimelineFile> {
  const { row, edit, laid, shelved, placed } = await laidOf(runtime, id);
  const { edit: right } = corrected(edit, laid, shelved);
  const name = `${stemOf(row.file)} corrected`;
  if (format === 'edl' && track !== undefined) return listOf(name, right, track);
  const used = [...new Set(laid.flat().flatMap((l) => l.clip ?? []))].flatMap((c) => placed.get(c) ?? []);
  const beside = await besideOf(runtime, used, there ?? (await onShelf(runtime)));
  const clipOf = new Map<EditEvent, { of: Placed; stretch: Part }>();
  right.tracks.forEach((t, i) =>
    t.events.forEach((e, k) => {
      const { clip, used: frames } = laid[i]![k]!;
      const of = clip === null || frames === null ? undefined : placed.get(clip);
      if (of && frames) clipOf.set(e, { of, stretch: frames });
    }),
  );
  const out = (e: EditEvent): EventOut | null => {
    const found = clipOf.get(e);
    return found ? beside(found.of, 'original', found.stretch) : null;
  };
  return written(name, right, format, out, [
    right.tracks.find((t) => t.kind === 'video') ?? right.tracks[0]!,
  ]);
}

/** One track of an edit as a list, which says in its name and its title which of several it is. */
function listOf(name: string, edit: Edit, at: number): TimelineFile {
  const track = edit.tracks[at];
  if (!track)
    throw new NotFound(`${edit.name} has no track ${at + 1}.`, { next: 'Choose one of its tracks.' });
  const which = edit.tracks.length > 1 ? ` ${trackWords(edit.tracks, at)}` : '';
  return { name: `${name}${which}.edl`, text: writeEdl({ ...edit, name: edit.name + which }, [track]) };
}

/** The tracks of pictures of an edit, from the lowest on, each by its place among all. */
export async function pictureTracks(runtime: InJob, id: string): Promise<{ at: number; words: string }[]> {
  const { tracks } = (await laidOf(runtime, id)).edit;
  return tracks.flatMap(({ kind }, at) => (kind === 'video' ? [{ at, words: trackWords(tracks, at) }] : []));
}

/** A stretch of a clip that has so many frames, at a rate. Of sound alone they count as its ranges do. */
type Stretch = Pick<PlayPart, 'clip' | 'name' | 'from' | 'to' | 'frames' | 'rate'>;

/** A string-out as a timeline made of the files that the edit is given, beginning at an hour. */
export async function stringOutEdit(
  runtime: InJob,
  id: string,
  format: TimelineFormat,
  of: { first: Side; there?: There } = { first: 'edit' },
): Promise<TimelineFile> {
  const { name, parts } = await stringOutDetail(runtime, id);
  return partsEdit(runtime, { name, parts, format, ...of });
}

/** Clips as a timeline, one after the other, each whole or in stretches; null where none of them can be laid into one. */
export async function clipsEdit(
  runtime: InJob,
  ids: readonly string[],
  of: {
    name: string;
    format: TimelineFormat;
    first: Side;
    there?: There;
    /** By the clips' ids; null for all of each. */
    stretches: ReadonlyMap<string, readonly Part[]> | null;
  },
): Promise<TimelineFile | null> {
  const { clips } = await clipsToConnect(runtime);
  const placed = new Map(clips.map((c) => [c.clip, c]));
  const parts = ids.flatMap((id): Stretch[] => {
    const clip = placed.get(id);
    const held = clip?.[of.first];
    if (!held?.rate || !held.frames || !countsTimecode(held.rate)) return [];
    const rate = clip!.original.sound ? SOUND_RATE : held.rate;
    const frames = Math.ceil((held.frames * fps(rate)) / fps(held.rate));
    const these = of.stretches === null ? [{ from: 0, to: frames }] : (of.stretches.get(id) ?? []);
    return these.map(({ from, to }) => ({
      ...{ clip: id, name: clip!.original.name, rate, frames },
      ...{ from, to: Math.min(to, frames) },
    }));
  });
  return parts.length === 0 ? null : partsEdit(runtime, { ...of, parts });
}

/** What is laid into a timeline: stretches one after the other, of files where they are for who reads it. */
interface Laying {
  name: string;
  parts: readonly Stretch[];
  first: Side;
  there?: There;
}

async function partsEdit(runtime: InJob, of: Laying & { format: TimelineFormat }): Promise<TimelineFile> {
  const { edit, beside } = await timelineOf(runtime, of);
  return written(of.name, edit, of.format, beside, edit.tracks);
}

/** Stretches as a timeline that begins at an hour, with what stands beside its events. Throws Refused where none of them can be laid into one. */
export async function timelineOf(
  runtime: InJob,
  of: Laying,
): Promise<{ edit: Edit; beside: (e: EditEvent) => EventOut }> {
  const { name, parts, first } = of;
  const there = of.there ?? (await onShelf(runtime));
  const { clips } = await clipsToConnect(runtime);
  const placed = new Map(clips.map((c) => [c.clip, c]));
  const isSound = (p: Stretch): boolean => placed.get(p.clip)?.original.sound === true;
  const rates = (of: readonly Stretch[]): Rate[] => of.map((p) => p.rate).filter(countsTimecode);
  // Sound has no rate of its own: it goes by that of the pictures it is laid with.
  const rate = mostFrequent(rates(parts.filter((p) => !isSound(p)))) ?? mostFrequent(rates(parts));
  if (!rate)
    throw new Refused(`${name} has no part that could be written.`, { next: 'Add parts of clips to it.' });
  const clipOf = new Map<EditEvent, { of: Placed; stretch: Part }>();
  let at = 0;
  const video: EditTrack = { name: 'V1', kind: 'video', events: [] };
  const audio: EditTrack = { name: 'A1', kind: 'audio', events: [] };
  for (const p of parts) {
    const found = placed.get(p.clip);
    if (!found)
      throw new NotFound(`${p.name} of ${name} is not read any more.`, { next: 'Look for changes.' });
    const { sound } = found.original;
    const clip = sound ? (inFrames(found, seconds(p.frames, p.rate)) ?? found) : found;
    const { rate: as, frames } = clip[first];
    const stretch = sound && as && frames ? countedAs(p, as, frames) : p;
    const track = sound ? audio : video;
    const event = eventOf(clip, first, there, stretch, { rate, at, label: String(track.events.length + 1) });
    at = event.to;
    track.events.push(event);
    clipOf.set(event, { of: clip, stretch: { from: p.from, to: p.to } });
  }
  const tracks = [video, audio].filter((t) => t.events.length > 0);
  const events = tracks.flatMap((t) => t.events);
  const drop = canDrop(rate) && events.some((e) => e.source.drop);
  const edit: Edit = {
    ...{ name, rate, drop, faults: [] },
    // Programmes begin at an hour (common practice).
    start: parseTimecode('01:00:00:00', rate, { drop })!.frame,
    tracks,
  };
  const laid = [...new Set([...clipOf.values()].map((c) => c.of))];
  const beside = await besideOf(runtime, laid, there);
  return {
    edit,
    beside(e) {
      const { of: clip, stretch } = clipOf.get(e)!;
      return beside(clip, first, stretch);
    },
  };
}

/** A stretch of sound in frames that its timecode counts, of which it has so many. */
function countedAs({ from, to, rate }: Stretch, as: Rate, frames: number): Part & { rate: Rate } {
  const counted = (at: number): number => Math.min(frames, Math.round((at * fps(as)) / fps(rate)));
  const first = Math.min(counted(from), frames - 1);
  return { from: first, to: Math.max(first + 1, counted(to)), rate: as };
}

/** A stretch of a clip as an event at a place of an edit, both in frames. */
export function eventOf(
  clip: Placed,
  first: Side,
  there: There,
  stretch: Part & { rate: Rate },
  where: { rate: Rate; at: number; label: string },
): EditEvent {
  const held = clip[first];
  const { from, to, rate } = stretch;
  const { at, label } = where;
  const length = Math.max(
    1,
    Math.round(((to - from) * rate.den * where.rate.num) / (rate.num * where.rate.den)),
  );
  return {
    ...{ label, from: at, to: at + length, name: stemOf(clip.original.name) },
    file: there.at(clip.places[first])?.name ?? held.name,
    ...{ reel: held.reel ?? clip.original.reel ?? clip.card, speed: 1, transition: null },
    source: {
      ...{ from: (firstFrame(held) ?? 0) + from, frames: to - from, rate },
      drop: held.start !== null && held.start.drop && canDrop(rate),
    },
  };
}

/** As a file. A list has these of its tracks. */
const written = (
  name: string,
  edit: Edit,
  format: TimelineFormat,
  beside: (e: EditEvent) => EventOut | null,
  listed: readonly EditTrack[],
): TimelineFile => ({
  name: `${name}.${format}`,
  text: format === 'otio' ? writeOtio(edit, beside) : writeEdl(edit, listed),
});
