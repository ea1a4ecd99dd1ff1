import { countingRate, fps, rate, type Rate } from '../../platform/timecode/rate';
import {
  canDrop,
  formatTimecode,
  framesPerDay,
  parseTimecode,
  timecode,
} from '../../platform/timecode/timecode';
import { type Edit, type EditEvent, type EditTrack, Faults, NotAnEdit, type Transition } from './edit';

// Edit decision lists in the 3600 form (SMPTE 258M, from memory): a line for each event, comments after it. What programs add to that is
// common practice: long reels, names of clips and files in comments, more than 999 events.

/** Lines of a list that are read. */
const MOST_LINES = 200_000;
const LONGEST_LINE = 2000;

const TIME = /^\d{2}[:;.,]\d{2}[:;.,]\d{2}[:;.,]\d{2,3}$/;
const TRANSITION = /^(?:C|D|W\d{0,3}|K[BO]?)$/;
/** "V", "V2", "A", "A12", "B", "AA", "AA/V", "A2/V", "NONE". */
const TRACK = /^(?:V\d{0,2}|A\d{0,2}|AA|B|NONE|(?:AA|A\d{0,2})\/V)$/i;
/** Black, and reels that stand for any file. */
const BLACK = /^(?:BL|BLK|BLACK)$/i;
const ANY_REEL = /^AX$/i;

interface Line {
  number: string;
  reel: string;
  track: string;
  transition: Transition | null;
  times: [string, string, string, string];
  /** Whether numbers count in drop-frame here, as the list said last. */
  drop: boolean;
}

/** An event line taken apart from its end: reels may hold spaces and be of any length. `null` where it is none. */
function lineOf(words: readonly string[], drop: boolean): Line | null {
  const times = words.slice(-4);
  if (
    words.length < 8 ||
    !/^\d{1,6}[A-Z]?$/i.test(words[0]!) ||
    times.length < 4 ||
    !times.every((t) => TIME.test(t))
  )
    return null;
  const rest = words.slice(1, -4);
  const length = /^\d{1,4}$/.test(rest.at(-1)!) ? Number(rest.pop()) : 0;
  const kind = rest.pop()?.toUpperCase() ?? '';
  const track = rest.pop()?.toUpperCase() ?? '';
  if (!TRANSITION.test(kind) || !TRACK.test(track) || rest.length === 0) return null;
  return {
    number: words[0]!,
    reel: rest.join(' '),
    track,
    transition: transitionOf(kind, length),
    times: times as Line['times'],
    drop,
  };
}

const transitionOf = (kind: string, frames: number): Transition | null =>
  kind === 'C' ? null : { kind: kind === 'D' ? 'dissolve' : kind.startsWith('W') ? 'wipe' : 'key', frames };

type Four = [number | null, number | null, number | null, number | null];

interface Read {
  line: Line;
  name: string | null;
  file: string | null;
  /** Frames a second of the clip, as an M2 line says; null where it runs as recorded. */
  rate: number | null;
}

/** What a list says, event by event, before its rate is known. */
interface Listed {
  title: string;
  events: Read[];
  faults: Faults;
  dropAtAll: boolean;
}

/** `* FROM CLIP NAME: …`, with any number of spaces and in any case. */
const COMMENT = /^\*\s{0,9}([A-Z][A-Z ]{0,40}?)\s{0,9}:\s{0,20}(.*)$/i;
/** "M2 A001 050.0 10:00:00:00": the reel and frames a second of a clip that does not run as recorded; `null` where a line is no such. */
function speedIn(words: readonly string[]): { reel: string; framesASecond: number } | null {
  if (words[0]?.toUpperCase() !== 'M2') return null;
  const of = TIME.test(words.at(-1)!) ? words.slice(1, -1) : words.slice(1);
  const number = of.at(-1) ?? '';
  return of.length > 1 && /^-?\d{1,4}(?:\.\d{1,6})?$/.test(number)
    ? { reel: of.slice(0, -1).join(' '), framesASecond: Number(number) }
    : null;
}

function listed(text: string): Listed {
  const faults = new Faults();
  const out: Listed = { title: '', events: [], faults, dropAtAll: false };
  let drop = false;
  const lines = text.replace(/^\uFEFF/, '').split(/\r\n|\n|\r/, MOST_LINES + 1);
  if (lines.length > MOST_LINES) throw new NotAnEdit(`it has more than ${MOST_LINES} lines`);
  for (const [i, whole] of lines.entries()) {
    const line = whole.trim();
    if (line.length > LONGEST_LINE) {
      faults.add(`Line ${i + 1} is longer than ${LONGEST_LINE} characters and was left out.`);
      continue;
    }
    const title = /^TITLE\s{0,9}:\s{0,9}(.*)$/i.exec(line);
    const count = /^FCM\s{0,9}:\s{0,9}(NON-?\s?DROP|DROP)/i.exec(line);
    const words = line.split(/\s+/);
    const speed = speedIn(words);
    const comment = COMMENT.exec(line);
    if (line === '') continue;
    if (title) out.title ||= title[1]!.trim();
    else if (count) {
      drop = !/^NON/i.test(count[1]!);
      out.dropAtAll ||= drop;
    } else if (speed) setSpeed(out, speed.reel, speed.framesASecond, i);
    else if (comment) setComment(out, comment[1]!.toUpperCase(), comment[2]!.trim());
    else if (/^\d/.test(line)) {
      const event = lineOf(words, drop);
      if (event) out.events.push({ line: event, name: null, file: null, rate: null });
      else
        faults.add(`Line ${i + 1} is no event that can be read, and was left out: “${line.slice(0, 80)}”.`);
    }
  }
  return out;
}

/** The lines of the event that was read last: a transition has one of what goes and one of what comes. */
function latest({ events }: Listed): Read[] {
  const last = events.at(-1);
  if (!last) return [];
  let at = events.length - 1;
  while (
    at > 0 &&
    events[at - 1]!.line.number === last.line.number &&
    events[at - 1]!.line.track === last.line.track
  )
    at--;
  return events.slice(at);
}

function setSpeed(out: Listed, reel: string, framesASecond: number, line: number): void {
  const group = latest(out);
  const of = group.find((e) => e.line.reel === reel && e.rate === null) ?? group.at(-1);
  if (of) of.rate = framesASecond;
  else out.faults.add(`Line ${line + 1} gives a speed to no event, and was left out.`);
}

function setComment(out: Listed, what: string, says: string): void {
  const group = latest(out);
  if (group.length === 0 || says === '') return;
  const [first, last] = [group[0]!, group.at(-1)!];
  if (what === 'FROM CLIP NAME' || what === 'CLIP NAME') first.name ??= says;
  // Of a transition in one line it is what comes that is of the line.
  else if (what === 'TO CLIP NAME') last.name = says;
  else if (what === 'SOURCE FILE' || what === 'FROM FILE') {
    // The first that has none: a transition names both, what goes before what comes.
    const of = group.find((e) => e.file === null);
    if (of) of.file = says;
  }
}

/** Of a hundred numbers, how many may be none at a rate that is guessed: a slip of the pen. */
const SLIPS = 4;

/**
 * The rate a list was most likely written at, for it does not say: 29.97 where it counts in drop-frame; else the least of the usual ones that
 * has its frame numbers, or `likely` where that has them. A guess, to be looked at by a person.
 */
export function guessRate(text: string, likely: Rate | null): Rate {
  const { events, dropAtAll } = listed(text);
  const numbers = events
    .flatMap((e) => e.line.times.map((t) => Number(t.split(/[:;.,]/)[3])))
    .sort((a, b) => a - b);
  const most = numbers[numbers.length - 1 - Math.floor((numbers.length * SLIPS) / 100)] ?? 0;
  const usual = [rate(25), rate(30000, 1001), rate(50), rate(60000, 1001), rate(100), rate(120)];
  const fits = (r: Rate) => most < countingRate(r) && (!dropAtAll || canDrop(r));
  if (likely && fits(likely)) return likely;
  return usual.find(fits) ?? rate(1000);
}

/**
 * Reads a list at a rate. Numbers that drop-frame skips are read as if they were not drop-frame, and said. Throws NotAnEdit where no line is an event.
 */
export function readEdl(text: string, at: Rate): Edit {
  const { title, events, faults } = listed(text);
  if (events.length === 0) throw new NotAnEdit('no line of it is an event of an edit decision list');
  const frameOf = (time: string, { drop, number }: Line): number | null => {
    const counts = drop || time.includes(';');
    const written = time.replace(/[;.,]/g, ':');
    const exact = parseTimecode(written, at, { drop: counts });
    if (exact) return exact.frame;
    const loose = counts ? parseTimecode(written, at, { drop: false }) : null;
    if (loose)
      faults.add(
        `Event ${number}: ${time} does not exist in drop-frame; it was read as the number after it.`,
      );
    else
      faults.add(
        `Event ${number}: ${time} is no timecode at ${fps(at).toFixed(2)} frames a second; the event was left out.`,
      );
    // The first number there is again.
    const first = String(countingRate(at) / 15).padStart(2, '0');
    return loose && parseTimecode(`${written.slice(0, 9)}${first}`, at, { drop: true })!.frame;
  };
  // Half a day and more is not past midnight, but back in time.
  const lengthOf = (from: number, to: number): number | null => {
    const day = framesPerDay(at, canDrop(at) && events[0]!.line.drop);
    const long = to < from ? to + day - from : to - from;
    return long <= day / 2 ? long : null;
  };
  const tracks = new Map<string, EditTrack>();
  for (const { line, name, file, rate: framesASecond } of events) {
    const [sourceIn, sourceOut, from, to] = line.times.map((t) => frameOf(t, line)) as Four;
    if (sourceIn === null || sourceOut === null || from === null || to === null) continue;
    const [long, used] = [lengthOf(from, to), lengthOf(sourceIn, sourceOut)];
    if (long === null || used === null) {
      faults.add(`Event ${line.number} ends before it begins; it was left out.`);
      continue;
    }
    // The line of what goes is empty where a transition begins at once; black has no clip.
    if (long === 0 || BLACK.test(line.reel)) continue;
    const speed = framesASecond === null ? 1 : framesASecond / fps(at);
    const track = trackOf(tracks, line.track);
    track.events.push({
      ...{ label: line.number, from, to: from + long, name, file },
      reel: ANY_REEL.test(line.reel) ? null : line.reel,
      source: {
        from: sourceIn,
        frames: speed === 1 ? used : usedAt(speed, long),
        rate: at,
        drop: canDrop(at) ? line.drop || line.times[0].includes(';') : false,
      },
      ...{ speed, transition: line.transition },
    });
  }
  const drop = canDrop(at) && events.some(({ line }) => line.drop || line.times[2].includes(';'));
  // It begins where its first event does.
  const all = [...tracks.values()].flatMap((t) => t.events);
  const start = all.reduce((least, e) => Math.min(least, e.from), all[0]?.from ?? 0);
  for (const e of all) [e.from, e.to] = [e.from - start, e.to - start];
  return { name: title, rate: at, start, drop, tracks: [...tracks.values()], faults: faults.all };
}

/** Frames of a clip that are seen in so many of an edit: of a still one. */
export const usedAt = (speed: number, frames: number): number =>
  Math.max(1, Math.round(Math.abs(speed) * frames));

function trackOf(tracks: Map<string, EditTrack>, name: string): EditTrack {
  const kind = name === 'B' || name.includes('V') || name === 'NONE' ? 'video' : 'audio';
  const known = tracks.get(name) ?? { name, kind, events: [] };
  tracks.set(name, known);
  return known;
}

/** What stands for a reel in a list: at most eight letters and figures, of no other reel. */
export interface ReelTable {
  reelOf(name: string): string;
  /** Names with what stands for each, in the order in which they came. */
  entries(): [string, string][];
}

export function reelTable(): ReelTable {
  const known = new Map<string, string>();
  const taken = new Set<string>(['BL', 'BLK', 'BLACK', 'AX']);
  /** Where the numbers of those that begin alike go on. */
  const next = new Map<string, number>();
  return {
    reelOf(name) {
      const had = known.get(name);
      if (had !== undefined) return had;
      const bare =
        name
          .toUpperCase()
          .replace(/[^A-Z0-9_]/g, '')
          .slice(0, 8) || 'REEL';
      let short = bare;
      let n = next.get(bare) ?? 2;
      for (; taken.has(short); n++) short = `${bare.slice(0, 8 - String(n).length)}${n}`;
      next.set(bare, n);
      taken.add(short);
      known.set(name, short);
      return short;
    },
    entries: () => [...known],
  };
}

const padded = (n: number): string => String(n).padStart(3, '0');

/**
 * Writes tracks of an edit as one list, in order of their events: each says whether it is of pictures or of sound. A clip's source counts in the edit's numbers: where it was recorded at another rate, in the number of the
 * same moment.
 */
export function writeEdl(edit: Edit, tracks: readonly EditTrack[]): string {
  const { rate: r, drop } = edit;
  const reels = reelTable();
  const lines = [
    `TITLE: ${oneLine(edit.name) || 'Untitled'}`,
    `FCM: ${drop ? 'DROP FRAME' : 'NON-DROP FRAME'}`,
    '',
  ];
  const time = (frame: number, dropping: boolean) => formatTimecode(timecode(frame, r, dropping));
  const events = tracks
    .flatMap(({ kind, events: of }) => of.map((e) => ({ e, channel: kind === 'video' ? 'V' : 'A' })))
    .sort((a, b) => a.e.from - b.e.from);
  events.forEach(({ e, channel }, i) => {
    const reel = reels.reelOf(e.reel ?? e.file ?? e.name ?? 'AX').padEnd(8);
    const counts = countedAt(e, r, drop);
    const how = e.transition
      ? `${{ dissolve: 'D', wipe: 'W001', key: 'K' }[e.transition.kind]}`.padEnd(4) +
        ` ${padded(e.transition.frames)}`
      : 'C       ';
    const length = e.speed === 1 ? e.to - e.from : Math.max(1, counts.frames);
    lines.push(
      [
        padded(i + 1),
        ` ${reel}`,
        channel.padEnd(5),
        how,
        time(counts.from, counts.drop),
        time(counts.from + length, counts.drop),
        time(edit.start + e.from, drop),
        time(edit.start + e.to, drop),
      ].join(' '),
    );
    if (e.speed !== 1)
      lines.push(
        `M2   ${reel}   ${speedOut(e.speed * fps(r))}                ${time(counts.from, counts.drop)}`,
      );
    if (e.name !== null) lines.push(`* ${e.transition ? 'TO' : 'FROM'} CLIP NAME: ${oneLine(e.name)}`);
    if (e.file !== null) lines.push(`* SOURCE FILE: ${oneLine(e.file)}`);
  });
  const shortened = reels.entries().filter(([name, short]) => name !== short);
  if (shortened.length > 0)
    lines.push('', ...shortened.map(([name, short]) => `* REEL ${short} STANDS FOR ${oneLine(name)}`));
  return `${lines.join('\r\n')}\r\n`;
}

/** "050.0", "-012.5". */
const speedOut = (framesASecond: number): string =>
  `${framesASecond < 0 ? '-' : ' '}${Math.abs(framesASecond).toFixed(1).padStart(5, '0')}`;

const oneLine = (words: string): string => words.replace(/\p{Cc}+/gu, ' ').trim();

/** A source in the numbers of a list: those of the same moment where it counts at another rate. */
function countedAt(
  { source }: EditEvent,
  r: Rate,
  drop: boolean,
): { from: number; frames: number; drop: boolean } {
  const ratio = countingRate(r) / countingRate(source.rate);
  if (ratio === 1)
    return { from: source.from, frames: source.frames, drop: canDrop(r) && (source.drop ?? drop) };
  const dropping = canDrop(r) && (source.drop ?? false);
  const from = relabelled(source.from, source.rate, source.drop ?? false, r, dropping);
  return { from, frames: Math.round(source.frames * ratio), drop: dropping };
}

/** The frame of a count whose number names the moment of another count's frame, or the last before it. */
export function relabelled(frame: number, from: Rate, dropFrom: boolean, to: Rate, dropTo: boolean): number {
  const label = formatTimecode(timecode(frame, from, dropFrom && canDrop(from)));
  const at = Math.max(label.lastIndexOf(':'), label.lastIndexOf(';'));
  const ff = Math.floor((Number(label.slice(at + 1)) * countingRate(to)) / countingRate(from));
  const numbered = (frames: number) => `${label.slice(0, at)}:${String(frames).padStart(2, '0')}`;
  const drop = dropTo && canDrop(to);
  // A number that drop-frame skips is the first there is after it.
  const found =
    parseTimecode(numbered(ff), to, { drop }) ?? parseTimecode(numbered(countingRate(to) / 15), to, { drop });
  return found!.frame;
}
