import * as z from 'zod';
import {
  countsTimecode,
  mostFrequent,
  parseRate,
  rate,
  type Rate,
  sameRate,
} from '../../platform/timecode/rate';
import { usedAt } from './edl';
import { type Edit, type EditEvent, type EditTrack, Faults, NotAnEdit, type Transition } from './edit';

// OpenTimelineIO, JSON with an OTIO_SCHEMA on every object; the schemas are from memory, and tried in round trips: Timeline.1, Stack.1, Track.1,
// Clip.1 and .2, Gap.1, Transition.1, ExternalReference.1, ImageSequenceReference.1, MissingReference.1, LinearTimeWarp.1, FreezeFrame.1, Marker.2, SerializableCollection.1.

/** Of a clip or of a timeline that is no slip of a program: a hundred days, at 100 frames a second. */
const MOST_SECONDS = 8_640_000;
const MOST_FRAMES = 100 * MOST_SECONDS;
/** Counts a second, of frames or of samples. */
const [SLOWEST, FASTEST] = [0.01, 1e9];
/** Levels of nesting and objects that are read. */
const DEEPEST = 40;
const MOST_ITEMS = 200_000;

type Json = Record<string, unknown>;

const Time = z
  .object({ value: z.number(), rate: z.number().min(SLOWEST).max(FASTEST) })
  .refine((t) => Math.abs(t.value) <= MOST_SECONDS * t.rate);
const Range = z.object({ start_time: Time, duration: Time });
/** Seconds on the timeline as exact as frames need: counts of the edit's rate, not rounded. */
interface Window {
  from: number;
  to: number;
}

const isObject = (v: unknown): v is Json => typeof v === 'object' && v !== null && !Array.isArray(v);
const schemaOf = (v: Json): string =>
  typeof v.OTIO_SCHEMA === 'string' ? v.OTIO_SCHEMA.replace(/\.\d+$/, '') : '';
const listOf = (v: unknown): Json[] => (Array.isArray(v) ? v.filter(isObject) : []);
const wordsIn = (v: unknown): string | null => (typeof v === 'string' && v.trim() !== '' ? v.trim() : null);
const rangeOf = (v: unknown): z.infer<typeof Range> | null => {
  const parsed = Range.safeParse(v);
  return parsed.success ? parsed.data : null;
};
/** Whether it says a range, be it one that makes no sense. */
const saysRange = (item: Json): boolean => item.source_range !== undefined && item.source_range !== null;
/** A rate as it is written, "23.976023976023978": to ten thousandths, of which the standard ones are told. */
const rateOf = (n: number): Rate | null => {
  const r = Number.isFinite(n) && n > 0 ? parseRate(String(Number(n.toFixed(4)))) : null;
  return r && countsTimecode(r) ? r : null;
};

/** Reads a timeline; of a collection the first there is. Throws NotAnEdit where it is none, with the reason. */
export function readOtio(text: string): Edit {
  let raw: unknown;
  try {
    raw = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch {
    throw new NotAnEdit('it is no JSON: it may have been cut off, or be another kind of file');
  }
  if (!isObject(raw) || schemaOf(raw) === '')
    throw new NotAnEdit('it has no OTIO_SCHEMA: it is no OpenTimelineIO');
  return new Reader(timelineIn(raw)).read();
}

function timelineIn(root: Json): Json {
  const found = firstTimeline(root, 0);
  if (found) return found;
  throw new NotAnEdit(`it holds no timeline, but “${schemaOf(root).slice(0, 40)}”`);
}

/** The first timeline, or what can stand for one, looking into each collection before those after it. */
function firstTimeline(at: Json, depth: number): Json | null {
  const schema = schemaOf(at);
  if (schema === 'Timeline') return at;
  if (schema === 'Stack' || schema === 'Track')
    return {
      OTIO_SCHEMA: 'Timeline.1',
      name: at.name,
      tracks: schema === 'Stack' ? at : { OTIO_SCHEMA: 'Stack.1', children: [at] },
    };
  if (schema !== 'SerializableCollection' || depth >= DEEPEST) return null;
  for (const child of listOf(at.children)) {
    const found = firstTimeline(child, depth + 1);
    if (found) return found;
  }
  return null;
}

class Reader {
  readonly #faults = new Faults();
  readonly #rate: Rate;
  #items = 0;

  constructor(private readonly timeline: Json) {
    this.#rate = this.#likeliest();
  }

  read(): Edit {
    const stack = isObject(this.timeline.tracks) ? this.timeline.tracks : {};
    const start = Time.safeParse(this.timeline.global_start_time);
    const began = start.success ? Math.round(this.#frames(start.data)) : 0;
    const tracks = listOf(stack.children).map((child, i): EditTrack => {
      const kind = child.kind === 'Audio' ? 'audio' : 'video';
      const events: EditEvent[] = [];
      this.#compose(child, 0, null, events, 1);
      events.forEach((e, n) => (e.label = String(n + 1)));
      return { name: wordsIn(child.name) ?? `${kind === 'audio' ? 'A' : 'V'}${i + 1}`, kind, events };
    });
    if (tracks.length === 0) throw new NotAnEdit('its timeline has no tracks');
    return {
      name: wordsIn(this.timeline.name) ?? '',
      rate: this.#rate,
      start: began <= MOST_FRAMES && began >= 0 ? began : 0,
      drop: false,
      tracks: this.#apart(tracks),
      faults: this.#faults.all,
    };
  }

  /** The rate of the timeline's own time where it says one, else the most frequent of what stands in it. */
  #likeliest(): Rate {
    const own = Time.safeParse(this.timeline.global_start_time);
    const said = own.success ? rateOf(own.data.rate) : null;
    if (said) return said;
    const rates: Rate[] = [];
    const walk = (item: Json, depth: number): void => {
      const range = rangeOf(item.source_range);
      const r = range && rateOf(range.duration.rate);
      if (r) rates.push(r);
      if (depth < DEEPEST) for (const child of listOf(item.children)) walk(child, depth + 1);
    };
    if (isObject(this.timeline.tracks)) walk(this.timeline.tracks, 0);
    return mostFrequent(rates) ?? rate(25);
  }

  #frames({ value, rate: written }: z.infer<typeof Time>): number {
    const r = rateOf(written);
    return (value * this.#rate.num * (r?.den ?? 1)) / (this.#rate.den * (r?.num ?? written));
  }

  /**
   * Puts the events of what is composed into `out`, from a place on, and gives how long it is; both in frames of the edit. `window` is what of
   * it is seen, counted from its own beginning.
   */
  #compose(item: Json, at: number, window: Window | null, out: EditEvent[], depth: number): number {
    if (depth > DEEPEST) throw new NotAnEdit(`it is nested deeper than ${DEEPEST} levels`);
    if (++this.#items > MOST_ITEMS) throw new NotAnEdit(`it holds more than ${MOST_ITEMS} items`);
    const own = rangeOf(item.source_range);
    const schema = schemaOf(item);
    if (schema !== 'Track' && schema !== 'Stack' && schema !== 'Timeline')
      return this.#single(item, at, window, out);
    if (!own && saysRange(item))
      this.#faults.add(
        `“${wordsIn(item.name) ?? schema}” has a range with numbers that no edit has; all of it was taken.`,
      );
    const inner = schema === 'Timeline' && isObject(item.tracks) ? item.tracks : item;
    // What a range of its own leaves of it, and what is left of that.
    const begins = own ? this.#frames(own.start_time) : 0;
    const length = own ? this.#frames(own.duration) : null;
    const seen: Window = {
      from: begins + Math.max(0, window?.from ?? 0),
      to: begins + Math.min(length ?? Infinity, window?.to ?? Infinity),
    };
    let end = 0;
    let transition: Transition | null = null;
    for (const child of listOf(inner.children)) {
      if (schemaOf(child) === 'Transition') {
        transition = this.#transition(child);
        continue;
      }
      const from = schema === 'Track' ? end : 0;
      const before = out.length;
      const part = { from: seen.from - from, to: seen.to - from };
      const long = this.#compose(child, at - begins + from, part, out, depth + 1);
      if (transition && out[before]) out[before].transition = transition;
      transition = null;
      end = schema === 'Track' ? end + long : Math.max(end, long);
    }
    return length ?? end;
  }

  #transition(item: Json): Transition {
    const [before, after] = [Time.safeParse(item.in_offset), Time.safeParse(item.out_offset)];
    const frames = [before, after].reduce((n, t) => n + (t.success ? this.#frames(t.data) : 0), 0);
    const type = wordsIn(item.transition_type) ?? '';
    return { kind: /wipe/i.test(type) ? 'wipe' : 'dissolve', frames: Math.max(0, Math.round(frames)) };
  }

  /** A clip or a gap. */
  #single(item: Json, at: number, window: Window | null, out: EditEvent[]): number {
    const media = mediaOf(item);
    const range = rangeOf(saysRange(item) ? item.source_range : media?.available_range);
    const name = wordsIn(item.name);
    const odd = `“${name ?? 'An item'}” has numbers that no clip has; it was left out.`;
    if (!range && saysRange(item)) {
      this.#faults.add(odd);
      // Where what follows it in its track begins is not known.
      return MOST_FRAMES;
    }
    if (!range) {
      if (schemaOf(item) === 'Clip')
        this.#faults.add(
          `“${name ?? 'A clip'}” says neither which frames of it are used nor how many it has; it was left out.`,
        );
      return 0;
    }
    const length = this.#frames(range.duration);
    if (length < 0) {
      this.#faults.add(`“${name ?? 'An item'}” has a length below zero; it was left out.`);
      return 0;
    }
    const [from, to] = [Math.max(0, window?.from ?? 0), Math.min(length, window?.to ?? Infinity)];
    if (schemaOf(item) !== 'Clip' || to <= from || (media && schemaOf(media) === 'GeneratorReference'))
      return length;
    const counted = rateOf(range.start_time.rate) ?? this.#rate;
    if (!rateOf(range.start_time.rate))
      this.#faults.add(
        `“${name ?? 'A clip'}” counts at no rate that is one: ${range.start_time.rate}. The edit’s own was taken.`,
      );
    const speed = speedOf(item);
    const perFrame = (counted.num * this.#rate.den) / (counted.den * this.#rate.num);
    const first = Math.round(range.start_time.value + from * perFrame * (speed === 0 ? 0 : Math.abs(speed)));
    const url = media && urlOf(media);
    const frames = usedAt(speed, (to - from) * perFrame);
    // Written so that it holds of what is no number, as speeds of speeds come to be.
    if (!(Math.abs(first) + frames <= MOST_FRAMES && Math.abs(at) + to <= MOST_FRAMES)) {
      this.#faults.add(odd);
      return Math.min(length, MOST_FRAMES);
    }
    if (first < 0) {
      this.#faults.add(`“${name ?? 'A clip'}” is used from before its first frame; it was left out.`);
      return length;
    }
    out.push({
      ...{ label: '', from: Math.round(at + from), to: Math.round(at + to) },
      ...{ name, file: url === null ? null : fileIn(url), reel: reelIn(item, media) },
      source: { from: first, frames, rate: counted, drop: null },
      ...{ speed, transition: null },
    });
    return length;
  }

  /** Events of one track do not lie on each other: of nested stacks the lower ones go to tracks of their own. */
  #apart(tracks: readonly EditTrack[]): EditTrack[] {
    return tracks.flatMap((track) => {
      const layers: EditEvent[][] = [];
      for (const e of [...track.events].sort((a, b) => a.from - b.from)) {
        const layer = layers.find((l) => l.at(-1)!.to <= e.from);
        if (layer) layer.push(e);
        else layers.push([e]);
      }
      return layers.length === 0
        ? [track]
        : layers.map((events, i) => ({
            ...track,
            name: i === 0 ? track.name : `${track.name}, ${i + 1}`,
            events,
          }));
    });
  }
}

/** What a clip is of: the reference that is in use, else the first. */
function mediaOf(clip: Json): Json | null {
  if (isObject(clip.media_reference)) return clip.media_reference;
  if (!isObject(clip.media_references)) return null;
  const key = wordsIn(clip.active_media_reference_key) ?? 'DEFAULT_MEDIA';
  const known = Object.hasOwn(clip.media_references, key) ? clip.media_references[key] : null;
  return [known, ...Object.values(clip.media_references)].find(isObject) ?? null;
}

function urlOf(media: Json): string | null {
  if (schemaOf(media) !== 'ImageSequenceReference') return wordsIn(media.target_url);
  const number = String(typeof media.start_frame === 'number' ? media.start_frame : 1);
  const pad =
    typeof media.frame_zero_padding === 'number' ? Math.min(12, Math.max(0, media.frame_zero_padding)) : 0;
  return `${wordsIn(media.target_url_base) ?? ''}/${wordsIn(media.name_prefix) ?? ''}${number.padStart(pad, '0')}${wordsIn(media.name_suffix) ?? ''}`;
}

/** The file's name at the end of an address or a path of any system. */
export function fileIn(url: string): string | null {
  const isAddress = url.includes('://');
  const path = isAddress ? url.split(/[?#]/, 1)[0]! : url;
  const last = path.slice(Math.max(path.lastIndexOf('/'), path.lastIndexOf('\\')) + 1);
  if (last === '') return null;
  // A reference below the timeline's own folder is an address, too (RFC 3986, 4.2); a path of a system is none.
  if (!isAddress && /^(?:\/|[a-z]:)|\\/i.test(url)) return last;
  try {
    return decodeURIComponent(last);
  } catch {
    // Not encoded, though it is an address: as it is.
    return last;
  }
}

/** Programs put a reel into metadata, of the clip or of its media, under a key of this name at some depth (common practice). */
function reelIn(clip: Json, media: Json | null): string | null {
  const find = (v: unknown, depth: number): string | null => {
    if (!isObject(v) || depth > 4) return null;
    for (const [key, value] of Object.entries(v))
      if (/^(?:reel|reel_?name|tape|tape_?name)$/i.test(key) && wordsIn(value)) return wordsIn(value);
    for (const value of Object.values(v)) {
      const found = find(value, depth + 1);
      if (found) return found;
    }
    return null;
  };
  return find(clip.metadata, 0) ?? (media && find(media.metadata, 0));
}

function speedOf(clip: Json): number {
  return listOf(clip.effects).reduce((speed, effect) => {
    if (schemaOf(effect) === 'FreezeFrame') return 0;
    const scalar = effect.time_scalar;
    return schemaOf(effect) === 'LinearTimeWarp' && typeof scalar === 'number' && Number.isFinite(scalar)
      ? speed * scalar
      : speed;
  }, 1);
}

/** A row of numbered images: the address of their folder, what stands in their names before and after the number, and the first number. */
export interface ImagesOut {
  folder: string;
  before: string;
  after: string;
  first: number;
  digits: number;
}

/** A file as a clip of a timeline refers to it. */
export interface MediaOut {
  url: string;
  /** Where it is no file, but a row of images of which `url` and `name` are the first. */
  images?: ImagesOut;
  name: string;
  /** Its frames, from its first timecode on. */
  from: number;
  frames: number;
  rate: Rate;
}

/** What else of an event is written: the files it may be played from, the first of which is in use, and marks on its clip. */
export interface EventOut {
  media: [key: string, of: MediaOut][];
  marks: { name: string; note: string; from: number; frames: number; rate: Rate; colour: string }[];
  /** Of the clip, for whoever reads it. */
  facts: Record<string, string>;
}

const numberOf = (r: Rate): number => r.num / r.den;
const timeOut = (value: number, r: Rate) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: numberOf(r) });
const rangeOut = (from: number, frames: number, r: Rate) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: timeOut(from, r),
  duration: timeOut(frames, r),
});

/** What else there is of an event. */
type Beside = (event: EditEvent) => EventOut | null;
const pretty = (value: object): string => JSON.stringify(value, null, 1);

/** Writes an edit. `beside` says what else there is of an event; only in media references that way. */
export const writeOtio = (edit: Edit, beside: Beside): string => pretty(timelineOut(edit, beside));

/** A collection as it is written: clips of it, timelines, and collections in it. */
export interface CollectionOut {
  name: string;
  clips: { event: EditEvent; beside: EventOut | null }[];
  timelines: { edit: Edit; beside: Beside }[];
  inside: CollectionOut[];
}

/** Writes clips and timelines in the collections that they stand in. */
export const writeOtioCollection = (of: CollectionOut): string => pretty(collectionOut(of));

const collectionOut = ({ name, clips, timelines, inside }: CollectionOut): object => ({
  ...{ OTIO_SCHEMA: 'SerializableCollection.1', name, metadata: {} },
  children: [
    ...inside.map(collectionOut),
    ...timelines.map(({ edit, beside }) => timelineOut(edit, beside)),
    ...clips.map(({ event, beside }) => clipOut(event, beside, event.source.rate)),
  ],
});

function timelineOut(edit: Edit, beside: Beside): object {
  const { rate: r } = edit;
  const gap = (frames: number) => ({
    ...{ OTIO_SCHEMA: 'Gap.1', name: '', metadata: {}, effects: [], markers: [] },
    source_range: rangeOut(0, frames, r),
  });
  const children = (track: EditTrack): object[] => {
    const items: object[] = [];
    let at = 0;
    for (const e of track.events) {
      if (e.from > at) items.push(gap(e.from - at));
      if (e.transition && e.transition.frames > 0 && items.length > 0)
        items.push({
          ...{ OTIO_SCHEMA: 'Transition.1', name: '', metadata: {} },
          transition_type: e.transition.kind === 'dissolve' ? 'SMPTE_Dissolve' : 'Custom_Transition',
          in_offset: timeOut(Math.floor(e.transition.frames / 2), r),
          out_offset: timeOut(Math.ceil(e.transition.frames / 2), r),
        });
      items.push(clipOut(e, beside(e), r));
      at = Math.max(at, e.to);
    }
    return items;
  };
  return {
    ...{ OTIO_SCHEMA: 'Timeline.1', name: edit.name, metadata: {} },
    global_start_time: timeOut(edit.start, r),
    tracks: {
      ...{ OTIO_SCHEMA: 'Stack.1', name: 'tracks', metadata: {} },
      ...{ source_range: null, effects: [], markers: [] },
      children: edit.tracks.map((track) => ({
        ...{ OTIO_SCHEMA: 'Track.1', name: track.name, metadata: {} },
        ...{ source_range: null, effects: [], markers: [] },
        kind: track.kind === 'video' ? 'Video' : 'Audio',
        children: children(track),
      })),
    },
  };
}

function clipOut(e: EditEvent, beside: EventOut | null, r: Rate): object {
  const { source, speed } = e;
  // How long it is on the timeline, in frames of its own rate; the warp says how many of the clip that are.
  const length = sameRate(source.rate, r)
    ? e.to - e.from
    : ((e.to - e.from) * source.rate.num * r.den) / (source.rate.den * r.num);
  const missing = {
    OTIO_SCHEMA: 'MissingReference.1',
    name: e.file ?? '',
    metadata: {},
    available_range: null,
  };
  return {
    ...{
      OTIO_SCHEMA: 'Clip.2',
      name: e.name ?? e.file ?? '',
      source_range: rangeOut(source.from, length, source.rate),
    },
    metadata:
      e.reel === null && !beside
        ? {}
        : { sort_shelf: { ...(e.reel === null ? {} : { reel: e.reel }), ...beside?.facts } },
    effects:
      speed === 1
        ? []
        : [
            speed === 0
              ? freeze
              : {
                  OTIO_SCHEMA: 'LinearTimeWarp.1',
                  name: '',
                  effect_name: 'LinearTimeWarp',
                  time_scalar: speed,
                  metadata: {},
                },
          ],
    markers: (beside?.marks ?? []).map((m) => ({
      ...{ OTIO_SCHEMA: 'Marker.2', name: m.name, comment: m.note, color: m.colour, metadata: {} },
      marked_range: rangeOut(m.from, m.frames, m.rate),
    })),
    media_references:
      beside && beside.media.length > 0
        ? Object.fromEntries(
            beside.media.map(([key, m]) => [
              key,
              {
                ...(m.images
                  ? imagesOut(m, m.images)
                  : { OTIO_SCHEMA: 'ExternalReference.1', target_url: m.url }),
                ...{ name: m.name, metadata: {} },
                available_range: rangeOut(m.from, m.frames, m.rate),
              },
            ]),
          )
        : { DEFAULT_MEDIA: missing },
    active_media_reference_key: beside?.media[0]?.[0] ?? 'DEFAULT_MEDIA',
  };
}

const imagesOut = ({ rate }: MediaOut, { folder, before, after, first, digits }: ImagesOut): object => ({
  OTIO_SCHEMA: 'ImageSequenceReference.1',
  ...{ target_url_base: folder, name_prefix: before, name_suffix: after },
  ...{ start_frame: first, frame_step: 1, rate: rate.num / rate.den, frame_zero_padding: digits },
  missing_frame_policy: 'error',
});

const freeze = {
  OTIO_SCHEMA: 'FreezeFrame.1',
  name: '',
  effect_name: 'FreezeFrame',
  time_scalar: 0,
  metadata: {},
};
