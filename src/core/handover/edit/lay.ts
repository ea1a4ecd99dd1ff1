import * as z from 'zod';
import { countingRate, formatRate, type Rate, sameRate } from '../../platform/timecode/rate';
import {
  canDrop,
  formatTimecode,
  framesPerDay,
  sameAddress,
  Timecode,
  timecode,
} from '../../platform/timecode/timecode';
import { plural } from '../../platform/words';
import { firstFrame, type Held, HELD_WORDS, nameKey, stemOf } from '../held';
import { type Interval, Intervals, put } from '../intervals';
import type { Edit, EditEvent, EditTrack, Stretch } from './edit';
import { relabelled } from './edl';

/** A clip with every file of it that an edit may have been made with; the first is what the finishing side holds. */
export interface Kept {
  clip: string;
  files: readonly Held[];
  /** What those files were called before, each in its place; an edit may have been made by then. Empty where they were never renamed. */
  formerly?: readonly (string | null)[];
}

/**
 * What became of an event. `found`: its frames are these of this clip. `rate`: the same, but it counts at another rate than the clip runs at.
 * `outside`: the clip is known, but has not all of its frames. `unsure`: the clip is known, but not which of its frames these are. `several`:
 * it may be of more clips than one. `missing`: of none.
 */
export const LaidVerdict = z.enum(['found', 'rate', 'outside', 'unsure', 'several', 'missing']);
export type LaidVerdict = z.infer<typeof LaidVerdict>;
export const LAID_WORDS: Record<LaidVerdict, string> = {
  found: 'found',
  rate: 'at another rate',
  outside: 'outside its clip',
  unsure: 'frames not known',
  several: 'several fit',
  missing: 'missing',
};

export const Laid = z.object({
  verdict: LaidVerdict,
  clip: z.string().nullable(),
  /** By what its clip was found. */
  by: z.enum(['file', 'name', 'reel', 'timecode']).nullable(),
  /** Frames of the original, from 0, that it uses. */
  used: z.object({ from: z.int(), to: z.int() }).nullable(),
  /** Frames it uses before the clip's first and behind its last. */
  before: z.int(),
  behind: z.int(),
  /** Which file it was cut from, where that begins elsewhere than the original: by how many frames of the original that is later. */
  shifted: z
    .object({ file: z.string(), starts: Timecode.nullable(), frames: z.int(), words: z.string() })
    .nullable(),
  why: z.string(),
});
export type Laid = z.infer<typeof Laid>;

/** A file of a clip as a stretch of numbers. */
interface Extent {
  clip: number;
  file: Held;
  from: number;
  to: number;
  rate: Rate;
  drop: boolean;
}

/** Where in a file's count a stretch is. */
interface Placed {
  from: number;
  to: number;
}

/** A stretch in a file's own count, wherever that begins; `null` where its numbers fall between the file's frames or it cannot be counted there. */
function placeIn(s: Stretch, of: Pick<Extent, 'rate' | 'drop'>): Placed | null {
  const ratio = countingRate(of.rate) / countingRate(s.rate);
  const drop = s.drop ?? of.drop;
  const dropping = drop && canDrop(s.rate);
  if (ratio === 1 && (s.drop === null || dropping === of.drop))
    return { from: s.from, to: s.from + s.frames };
  if (s.from >= framesPerDay(s.rate, dropping)) return null;
  const from = relabelled(s.from, s.rate, dropping, of.rate, of.drop);
  return { from, to: from + Math.max(1, Math.ceil(s.frames * ratio)) };
}

/** A stretch in a file that holds all of it, also where the file runs past midnight and the stretch begins after that; `null` where it does not. */
function heldIn(s: Stretch, e: Extent): Placed | null {
  const place = placeIn(s, e);
  if (!place) return null;
  const day = framesPerDay(e.rate, e.drop);
  const found = [0, day].find((later) => place.from + later >= e.from && place.to + later <= e.to);
  return found === undefined ? null : { from: place.from + found, to: place.to + found };
}

/** A way of counting that files of the job have. */
interface Counted {
  rate: Rate;
  drop: boolean;
  key: string;
}

/** Every file of every clip by what an event may name. */
export class Shelved {
  readonly #extents: Extent[];
  readonly #byName = new Map<string, Extent[]>();
  readonly #byStem = new Map<string, Extent[]>();
  /** By rate and count. */
  readonly #times = new Map<string, Intervals<Extent>>();
  /** By the letters and figures of a reel, and by the first eight of them. */
  readonly #byReel = new Map<string, Extent[]>();
  readonly #rates: Counted[] = [];
  /** Clips of files whose length or rate is not known, by their names and those without extensions. */
  readonly #unmeasured = new Map<string, number[]>();

  constructor(readonly clips: readonly Kept[]) {
    this.#extents = clips.flatMap(({ files }, clip) => files.flatMap((file) => extentIn(clip, file) ?? []));
    const formerly = new Map(
      clips.flatMap((c) => c.files.map((file, i) => [file, c.formerly?.[i] ?? null] as const)),
    );
    clips.forEach(({ files }, clip) => {
      for (const file of files.filter((f) => extentIn(clip, f) === null))
        for (const name of new Set([nameKey(file.name), nameKey(stemOf(file.name))]))
          put(this.#unmeasured, name, clip);
    });
    const timed = new Map<string, Interval<Extent>[]>();
    for (const e of this.#extents) {
      const before = formerly.get(e.file) ?? null;
      for (const name of new Set([e.file.name, ...(before === null ? [] : [before])])) {
        put(this.#byName, nameKey(name), e);
        put(this.#byStem, nameKey(stemOf(name)), e);
      }
      if (!e.file.start) continue;
      const reel = bareReel(e.file.reel);
      for (const key of new Set([reel, reel.slice(0, LISTED_REEL)]))
        if (key !== '') put(this.#byReel, key, e);
      const key = `${e.rate.num}/${e.rate.den} ${e.drop}`;
      if (!timed.has(key)) this.#rates.push({ rate: e.rate, drop: e.drop, key });
      put(timed, key, { of: e, from: e.from, to: e.to });
    }
    for (const { rate, drop, key } of this.#rates)
      this.#times.set(key, new Intervals(timed.get(key)!, framesPerDay(rate, drop)));
  }

  /** Files of a name, else those whose name is it without an extension. */
  named(name: string): readonly Extent[] {
    return (
      this.#byName.get(nameKey(name)) ??
      this.#byStem.get(nameKey(name)) ??
      this.#byStem.get(nameKey(stemOf(name))) ??
      []
    );
  }

  /** The one clip that has a file of a name of which no more is known; null where there is none, or several. */
  unmeasured(name: string): number | null {
    const found = new Set(
      this.#unmeasured.get(nameKey(name)) ?? this.#unmeasured.get(nameKey(stemOf(name))) ?? [],
    );
    return found.size === 1 ? [...found][0]! : null;
  }

  /** Files whose timecode holds a stretch whole: those that run at its rate, and only where there are none, others. */
  holding(s: Stretch, fits: (e: Extent) => boolean): Extent[] {
    const found = (some: readonly Counted[]) => some.flatMap((r) => this.#holdingAt(s, r, fits));
    const same = found(this.#rates.filter((r) => sameRate(r.rate, s.rate)));
    return same.length > 0
      ? same
      : found(this.#rates.filter((r) => !sameRate(r.rate, s.rate) && isMultiple(r.rate, s.rate)));
  }

  /** Of very many some: that there are several is known by then. */
  #holdingAt(s: Stretch, { rate, drop, key }: Counted, fits: (e: Extent) => boolean): Extent[] {
    const place = placeIn(s, { rate, drop });
    const found: Extent[] = [];
    if (!place) return found;
    for (const extent of this.#times.get(key)!.holding(place.from, place.to)) {
      if (fits(extent)) found.push(extent);
      if (found.length >= MOST) break;
    }
    return found;
  }

  /** Files of a reel whose timecode holds a stretch whole. */
  ofReel(reel: string, s: Stretch): Extent[] {
    return (this.#byReel.get(bareReel(reel)) ?? []).filter((e) => heldIn(s, e) !== null);
  }
}

/** Letters and figures of a reel, all capitals: what lists keep of it, and of those the first eight. */
const bareReel = (reel: string | null): string => (reel ?? '').toUpperCase().replace(/[^A-Z0-9]/g, '');
const LISTED_REEL = 8;
const isOfReel = (reel: string | null, listed: string): boolean =>
  [bareReel(reel), bareReel(reel).slice(0, LISTED_REEL)].includes(bareReel(listed));
/** Files that are looked at where very many fit. */
const MOST = 40;

/** Whether frames of one rate lie on those of the other: 50 and 25, not 25 and 29.97. */
const isMultiple = (a: Rate, b: Rate): boolean => {
  const [fast, slow] = [
    Math.max(countingRate(a), countingRate(b)),
    Math.min(countingRate(a), countingRate(b)),
  ];
  return fast % slow === 0 && (a.den === 1001) === (b.den === 1001);
};

function extentIn(clip: number, file: Held): Extent | null {
  const { start, rate, frames } = file;
  const from = firstFrame(file);
  if (!rate || frames === null || from === null) return null;
  return { clip, file, from, to: from + frames, rate, drop: start !== null && start.drop && canDrop(rate) };
}

const NOTHING: Omit<Laid, 'verdict' | 'why'> = {
  clip: null,
  by: null,
  used: null,
  before: 0,
  behind: 0,
  shifted: null,
};

/** Lays every event of an edit against the clips, track by track. */
export const lay = (edit: Edit, shelved: Shelved): Laid[][] =>
  edit.tracks.map((track) => track.events.map((event) => layEvent(event, shelved, track.kind)));

/** Where no name tells, nothing of a track of pictures is sound alone. */
export function layEvent(event: EditEvent, shelved: Shelved, kind: EditTrack['kind'] = 'video'): Laid {
  const { file, name, reel, source } = event;
  for (const [by, words] of [
    ['file', file],
    ['name', name],
  ] as const) {
    const named = words === null ? [] : shelved.named(words);
    if (named.length > 0) return amongNamed(event, by, named, shelved);
    const bare = words === null ? null : shelved.unmeasured(words);
    if (bare !== null)
      return {
        ...{ ...NOTHING, verdict: 'found', clip: shelved.clips[bare]!.clip, by },
        why: 'only its name was compared: its timecode or length is not known',
      };
  }
  const fits = (e: Extent) => kind === 'audio' || !e.file.sound;
  const ofReel = reel === null ? [] : shelved.ofReel(reel, source).filter(fits);
  const [by, found] =
    ofReel.length > 0 ? (['reel', ofReel] as const) : (['timecode', shelved.holding(source, fits)] as const);
  if (found.length > 0) return amongHeld(event, by, found, shelved);
  const what = file ?? name ?? (reel === null ? null : `reel ${reel}`);
  return {
    ...NOTHING,
    verdict: 'missing',
    why: `${what === null ? 'no clip of the job' : `no clip of the job is named ${what}, and none`} holds its timecode ${numbersOf(source)}`,
  };
}

const clipsOf = (extents: readonly Extent[]): number[] => [...new Set(extents.map((e) => e.clip))];

/** Of files that have the name an event says. Their clips are asked for its frames: in the file of that name first, then in any other of theirs. */
function amongNamed(event: EditEvent, by: 'file' | 'name', named: readonly Extent[], shelved: Shelved): Laid {
  const all = named.filter((e) => holds(event.source, e));
  // Names come back every day; a reel may tell them apart.
  const ofReel =
    event.reel !== null && clipsOf(all).length > 1
      ? all.filter((e) => isOfReel(e.file.reel, event.reel!))
      : [];
  const inside = ofReel.length > 0 ? ofReel : all;
  if (clipsOf(inside).length > 1) return severalOf(by, inside, shelved);
  if (inside[0]) return foundIn(event, by, inside[0], shelved);
  const mine = clipsOf(named);
  const others = mine.flatMap((clip) => shelved.clips[clip]!.files.flatMap((f) => extentIn(clip, f) ?? []));
  const elsewhere = others.filter((e) => holds(event.source, e));
  if (clipsOf(elsewhere).length > 1) return severalOf(by, elsewhere, shelved);
  if (elsewhere[0]) return foundIn(event, by, elsewhere[0], shelved);
  if (mine.length > 1) return severalOf(by, named, shelved);
  return outsideOf(event, by, nearest(event.source, others), shelved);
}

const holds = (s: Stretch, e: Extent): boolean => heldIn(s, e) !== null;

function amongHeld(
  event: EditEvent,
  by: 'reel' | 'timecode',
  held: readonly Extent[],
  shelved: Shelved,
): Laid {
  if (clipsOf(held).length > 1) return severalOf(by, held, shelved);
  // Where original and proxy hold it alike, it is the original's.
  const first = held.find((e) => e.file === shelved.clips[e.clip]!.files[0]) ?? held[0]!;
  return foundIn(event, by, first, shelved);
}

function severalOf(by: NonNullable<Laid['by']>, extents: readonly Extent[], shelved: Shelved): Laid {
  const names = clipsOf(extents).map((clip) => shelved.clips[clip]!.files[0]!.name);
  const [some, more] = [names.slice(0, 3), names.length - 3];
  return {
    ...{ ...NOTHING, by, verdict: 'several' },
    why: `${plural(names.length, 'clip')} fit: ${some.join(', ')}${more > 0 ? ` and ${more} more` : ''}`,
  };
}

/** The file that a stretch misses by the fewest frames; files that cannot be counted in at all come last. */
function nearest(s: Stretch, extents: readonly Extent[]): Extent {
  const missed = (e: Extent): number => {
    const place = placeIn(s, e);
    return place ? Math.max(0, e.from - place.from) + Math.max(0, place.to - e.to) : Infinity;
  };
  return [...extents].sort((a, b) => missed(a) - missed(b))[0]!;
}

/** How a file's frames are those of its original. */
interface Beside {
  original: Extent | null;
  /** The number of its first frame, from 0, at the original's rate; `null` where it cannot be told. */
  first: number | null;
  shifted: Laid['shifted'];
  /** What was taken to be so. */
  taken?: string;
}

/** Whether a file has as many frames as its original, at its own rate. */
const isWhole = (file: Extent, original: Extent): boolean => {
  const ratio = countingRate(original.rate) / countingRate(file.rate);
  return Math.abs((file.to - file.from) * ratio - (original.to - original.from)) < Math.max(1, ratio);
};

/**
 * How a file meets its original. One of all its frames begins with the first of them, whatever it counts: where its timecode is another it
 * is shifted. One that has fewer, or more, begins where its timecode says, if the original holds all of it there.
 */
function besideOf(file: Extent, shelved: Shelved): Beside {
  const original = extentIn(file.clip, shelved.clips[file.clip]!.files[0]!);
  if (!original || original.file === file.file) return { original, first: 0, shifted: null };
  const from = relabelled(
    file.from % framesPerDay(file.rate, file.drop),
    file.rate,
    file.drop,
    original.rate,
    original.drop,
  );
  const frames = original.from - from;
  const whole = isWhole(file, original);
  if (frames === 0)
    return {
      ...{ original, first: 0, shifted: null },
      // Programs count both from nothing.
      ...(whole || file.file.start
        ? {}
        : { taken: `${lengths(file, original)}: both are taken to begin together` }),
    };
  if (!whole) {
    const day = framesPerDay(original.rate, original.drop);
    const length = ((file.to - file.from) * countingRate(original.rate)) / countingRate(file.rate);
    // The original may run past midnight, and the file begin after that.
    const first = [-frames, day - frames].find((n) => n > 0 && n + length <= original.to - original.from);
    return { original, first: first ?? null, shifted: null };
  }
  const starts = (e: Extent) => formatTimecode(timecode(e.from, e.rate, e.drop));
  return {
    original,
    first: 0,
    shifted: {
      ...{ file: file.file.name, starts: file.file.start, frames },
      words: `cut from the ${HELD_WORDS[file.file.what]} ${file.file.name}, which starts at ${starts(file)}, the ${HELD_WORDS[original.file.what]} at ${starts(original)}`,
    },
  };
}

function foundIn(event: EditEvent, by: NonNullable<Laid['by']>, file: Extent, shelved: Shelved): Laid {
  const place = heldIn(event.source, file)!;
  const { original, first, shifted, taken } = besideOf(file, shelved);
  if (original && first === null) return unsureOf(by, file, original, shelved);
  const [from, to] = [place.from - file.from, place.to - file.from];
  const ratio = original ? countingRate(original.rate) / countingRate(file.rate) : 1;
  const otherRate = !sameRate(event.source.rate, (original ?? file).rate);
  const used = { from: first! + Math.floor(from * ratio), to: first! + Math.ceil(to * ratio) };
  const beyond = original && first! + to * ratio > original.to - original.from;
  const clip = shelved.clips[file.clip]!.clip;
  if (beyond) {
    const behind = used.to - (original.to - original.from);
    return {
      verdict: 'outside',
      clip,
      by,
      used,
      before: 0,
      behind,
      shifted,
      why: `the original ends ${plural(behind, 'frame')} earlier than the ${HELD_WORDS[file.file.what]} it was cut from`,
    };
  }
  return {
    ...{ verdict: otherRate ? 'rate' : 'found', clip, by, used, before: 0, behind: 0, shifted },
    why: [
      ...(shifted ? [shifted.words] : []),
      ...(taken ? [taken] : []),
      ...(otherRate
        ? [
            `the clip runs at ${formatRate((original ?? file).rate)}, the edit counts it at ${formatRate(event.source.rate)}`,
          ]
        : []),
    ].join('; '),
  };
}

/** "the proxy a.mp4 has 99 frames, the original 100 frames". */
function lengths(file: Extent, original: Extent): string {
  const frames = (e: Extent) => plural(e.to - e.from, 'frame');
  return `the ${HELD_WORDS[file.file.what]} ${file.file.name} has ${frames(file)}, the ${HELD_WORDS[original.file.what]} ${frames(original)}`;
}

function unsureOf(by: NonNullable<Laid['by']>, file: Extent, original: Extent, shelved: Shelved): Laid {
  return {
    ...{ ...NOTHING, verdict: 'unsure', clip: shelved.clips[file.clip]!.clip, by },
    why: `${lengths(file, original)}, and by their timecodes it is no part of it: which frames these are cannot be told, but from another file of the clip it could`,
  };
}

function outsideOf(event: EditEvent, by: 'file' | 'name', file: Extent, shelved: Shelved): Laid {
  const clip = shelved.clips[file.clip]!.clip;
  const place = placeIn(event.source, file);
  if (!place)
    return {
      ...NOTHING,
      verdict: 'rate',
      clip,
      by,
      why: `its numbers at ${formatRate(event.source.rate)} fall between the frames of the clip, which runs at ${formatRate(file.rate)}`,
    };
  const before = Math.max(0, Math.min(place.to, file.from) - place.from);
  const behind = Math.max(0, place.to - Math.max(place.from, file.to));
  const says = [
    ...(before > 0 ? [`${plural(before, 'frame')} before its first`] : []),
    ...(behind > 0 ? [`${plural(behind, 'frame')} after its last`] : []),
  ];
  return {
    ...NOTHING,
    verdict: 'outside',
    clip,
    by,
    before,
    behind,
    why: `it uses ${says.join(' and ')}: ${numbersOf(event.source)}`,
  };
}

/** "10:00:00:00 to 10:00:04:00". */
export function numbersOf({ from, frames, rate, drop }: Stretch): string {
  const words = (frame: number) => formatTimecode(timecode(frame, rate, (drop ?? false) && canDrop(rate)));
  return `${words(from)} to ${words(from + frames)}`;
}

/** A file of a clip as an edit counts in it. */
export interface Alike {
  clip: string;
  /** Its name without the extension: that of the file it was cut from, where that begins as the original's does; else the original's. */
  stem: string;
  /** What the name has after the original's. */
  words: string;
  startsAt: Timecode;
}

/**
 * The files that events were cut from and that begin elsewhere than what the finishing side holds, each once: made of the originals, they
 * let the edit connect as it is. Not where the camera's own file counts so already, of those that run at another rate, which count other
 * frames, and of sound.
 */
export function cutAlike(laid: readonly (readonly Laid[])[], shelved: Shelved): Alike[] {
  const byId = new Map(shelved.clips.map((c) => [c.clip, c]));
  const alike = new Map<string, Alike>();
  for (const { clip, shifted, verdict } of laid.flat()) {
    if (clip === null || shifted === null || verdict === 'outside') continue;
    const { files } = byId.get(clip)!;
    const original = files[0]!;
    const file = files.find((f) => f.name === shifted.file && f !== original);
    if (!file?.rate || !original.rate || original.sound || !sameRate(file.rate, original.rate)) continue;
    const startsAt = shifted.starts ?? timecode(0, file.rate, false);
    const own = stemOf(original.name);
    const words = stemOf(file.name).startsWith(own) ? stemOf(file.name).slice(own.length) : '';
    const stem = own + words;
    const isAlike = (f: Held) =>
      stemOf(f.name) === stem && sameAddress(f.start ?? timecode(0, startsAt.rate, false), startsAt);
    if (files.some((f) => f.what === 'original' && isAlike(f))) continue;
    alike.set(`${clip}\n${stem}\n${formatTimecode(startsAt)}`, { clip, stem, words, startsAt });
  }
  return [...alike.values()];
}

/** The edit with its source ranges in the originals' timecode and by the originals' names, wherever each event's clip is known. */
export function corrected(
  edit: Edit,
  laid: readonly (readonly Laid[])[],
  shelved: Shelved,
): { edit: Edit; changed: number } {
  const byId = new Map(shelved.clips.map((c, i) => [c.clip, i]));
  let changed = 0;
  const event = (e: EditEvent, found: Laid): EditEvent => {
    if (found.clip === null || found.used === null || found.verdict === 'outside') return e;
    const index = byId.get(found.clip)!;
    const original = extentIn(index, shelved.clips[index]!.files[0]!);
    if (!original) return e;
    const ratio = countingRate(e.source.rate) / countingRate(original.rate);
    // At the edit's own rate where that is another: the numbers it counts in stay.
    const at = original.from + found.used.from;
    const from =
      ratio === 1 ? at : relabelled(at, original.rate, original.drop, e.source.rate, original.drop);
    const source: Stretch = { ...e.source, from, drop: canDrop(e.source.rate) ? original.drop : false };
    const called = e.file ?? e.name;
    const { name } = original.file;
    if (found.shifted || (called !== null && called !== name && called !== stemOf(name))) changed++;
    return {
      ...e,
      file: original.file.name,
      name: e.name === null ? null : stemOf(original.file.name),
      reel: original.file.reel ?? e.reel,
      source,
    };
  };
  return {
    edit: {
      ...edit,
      tracks: edit.tracks.map((t, i) => ({ ...t, events: t.events.map((e, k) => event(e, laid[i]![k]!)) })),
    },
    changed,
  };
}
