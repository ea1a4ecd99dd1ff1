import type { Moment } from './values';

/** A clip as far as its clock can be judged by it. Times are seconds since 1970 by the local clock. */
export interface Roll {
  clip: string;
  name: string;
  camera: string;
  day: number;
  /** Start by what the clip says, put right as far as is known. */
  from: number;
  /** Running time, seconds. */
  seconds: number;
  /** Seconds since midnight its timecode begins at; `null` where it has none of its own. */
  timecode: number | null;
  /** When its file was last written; `null` where that says nothing. */
  written: number | null;
}

/** Two recordings that would have run at the same time. */
export interface Meeting {
  clip: string;
  name: string;
  at: number;
  other: string;
  otherName: string;
  otherCamera: string;
  otherAt: number;
}

/** A clock that may have been wrong: what to add to it, why, and what speaks for it. */
export interface ClockSuspicion {
  camera: string;
  fromDay: number;
  toDay: number;
  seconds: number;
  kind: 'others' | 'timecode' | 'fileTime';
  because: string;
  meetings: Meeting[];
  of: number;
}

/**
 * The date a local time belongs to, where a day begins at an hour of the morning: a night shoot runs past midnight.
 * `dayStart` is from 0 to 23.
 */
export function dateOf(local: Moment['local'], dayStart: number): string {
  return new Date(Date.parse(`${local}Z`) - dayStart * 3_600_000).toISOString().slice(0, 10);
}

/** How close two cameras' starts are that were rolled for the same thing. Seconds. */
const TOGETHER = 20;
/** Clocks are wrong by zones and by summer time: steps of a quarter of an hour, up to fourteen hours. */
const STEP = 900;
const STEPS = 56;

const median = (list: readonly number[]): number =>
  [...list].sort((a, b) => a - b)[Math.floor(list.length / 2)]!;

/** A span of time in words: "1 h", "1 h 30 min", "12 s". */
export function spanWords(seconds: number): string {
  const s = Math.abs(Math.round(seconds));
  const parts = [
    [Math.floor(s / 3600), 'h'],
    [Math.floor(s / 60) % 60, 'min'],
    [s % 60, 's'],
  ].filter(([n]) => n !== 0);
  return parts.length === 0 ? '0 s' : parts.map(([n, u]) => `${n} ${u}`).join(' ');
}

/** What a suspicion says of a card, in words; null where it is about another camera or another day. */
export const suspicionOf = (
  card: { camera: string; day: number },
  s: { camera: string; fromDay: number; toDay: number; seconds: number },
): string | null =>
  s.camera === card.camera && s.fromDay <= card.day && s.toDay >= card.day
    ? `the clock looks ${spanWords(s.seconds)} ${s.seconds > 0 ? 'slow' : 'fast'}: see Facts, Clocks`
    : null;

/**
 * Looks for clocks that were wrong, camera by camera and day by day: against the other cameras, against the camera's own
 * timecode, and against the times of its files. Suggestions only: the person decides.
 */
export function suspectClocks(rolls: readonly Roll[]): ClockSuspicion[] {
  const [groups, days] = [new Map<string, Roll[]>(), new Map<number, Roll[]>()];
  const put = <K>(map: Map<K, Roll[]>, key: K, roll: Roll) => {
    const list = map.get(key);
    if (list) list.push(roll);
    else map.set(key, [roll]);
  };
  for (const r of rolls) {
    put(groups, `${r.camera}\0${r.day}`, r);
    put(days, r.day, r);
  }
  const found: ClockSuspicion[] = [];
  for (const mine of groups.values()) {
    const others = days.get(mine[0]!.day)!.filter((r) => r.camera !== mine[0]!.camera);
    const one = byOthers(mine, others) ?? byTimecode(mine) ?? byFileTime(mine);
    if (one) found.push(one);
  }
  return joinDays(found.filter((s) => !found.some((t) => moreLikely(t, s))));
}

/**
 * Two cameras that contradict each other each look wrong by the other. The one of which a larger share of clips meets is the
 * more likely; where that is equal both are shown, and the person knows.
 */
function moreLikely(t: ClockSuspicion, s: ClockSuspicion): boolean {
  const mirrored =
    t.camera !== s.camera &&
    t.kind === 'others' &&
    s.kind === 'others' &&
    t.fromDay === s.fromDay &&
    t.seconds === -s.seconds &&
    s.meetings.every((m) => m.otherCamera === t.camera);
  return mirrored && t.meetings.length * s.of > s.meetings.length * t.of;
}

/**
 * Against the other cameras: the clips of one that meet nothing as its clock is, and meet others' clips when it is
 * moved by a whole number of quarter hours. At least two, and three of five, must meet then; no more than one of five before.
 */
function byOthers(mine: readonly Roll[], others: readonly Roll[]): ClockSuspicion | null {
  if (mine.length < 2 || others.length < 2) return null;
  const inTime = [...others].sort((a, b) => a.from - b.from);
  const meet = (by: number): [Roll, Roll][] =>
    mine.flatMap((m) => {
      const near = nearest(inTime, m.from + by);
      return Math.abs(near.from - m.from - by) <= TOGETHER ? [[m, near] as [Roll, Roll]] : [];
    });
  const now = meet(0).length;
  let best: { by: number; met: [Roll, Roll][] } = { by: 0, met: [] };
  for (let step = 1; step <= STEPS; step++) {
    for (const by of [step * STEP, -step * STEP]) {
      const met = meet(by);
      if (met.length > best.met.length) best = { by, met };
    }
  }
  if (best.met.length < 2 || best.met.length < mine.length * 0.6 || now > mine.length * 0.2) return null;
  const meetings = best.met.map(([m, o]): Meeting => ({
    clip: m.clip,
    name: m.name,
    at: m.from,
    other: o.clip,
    otherName: o.name,
    otherCamera: o.camera,
    otherAt: o.from,
  }));
  const { camera, day } = mine[0]!;
  return {
    camera,
    fromDay: day,
    toDay: day,
    seconds: best.by,
    kind: 'others',
    meetings,
    of: mine.length,
    because: `${meetings.length} of ${mine.length} clips begin with another camera’s when the clock is set ${spanWords(best.by)} ${best.by > 0 ? 'later' : 'earlier'}; as it stands, ${now === 0 ? 'none does' : `${now} do`}.`,
  };
}

/** Of clips in order of their start, the one that begins nearest to a time; there is at least one. */
function nearest(inTime: readonly Roll[], at: number): Roll {
  let [low, high] = [0, inTime.length - 1];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (inTime[middle]!.from < at) low = middle + 1;
    else high = middle;
  }
  const [after, before] = [inTime[low]!, inTime[Math.max(0, low - 1)]!];
  return Math.abs(before.from - at) < Math.abs(after.from - at) ? before : after;
}

/** Against its own timecode: a free-running time of day that differs from the clock by the same span in three clips or more. */
function byTimecode(mine: readonly Roll[]): ClockSuspicion | null {
  const apart = mine.flatMap((m) =>
    m.timecode === null ? [] : [((m.timecode - (m.from % 86_400) + 129_600) % 86_400) - 43_200],
  );
  return constant(mine, apart, 'timecode', 'The timecode', 'the clock');
}

/** Against the times of its files, which are the clock's too: they differ by whole half hours where a zone was taken for another. */
function byFileTime(mine: readonly Roll[]): ClockSuspicion | null {
  const apart = mine.flatMap((m) => (m.written === null ? [] : [m.written - (m.from + m.seconds)]));
  const usual = apart.length > 0 ? median(apart) : 0;
  return Math.abs(usual) >= 1800 &&
    Math.abs(usual) <= 50_400 &&
    Math.abs(usual - Math.round(usual / 1800) * 1800) <= 10
    ? constant(
        mine,
        apart.map((a) => a - (usual - Math.round(usual / 1800) * 1800)),
        'fileTime',
        'The files were written',
        'what the clips say',
      )
    : null;
}

function constant(
  mine: readonly Roll[],
  apart: readonly number[],
  kind: 'timecode' | 'fileTime',
  who: string,
  than: string,
): ClockSuspicion | null {
  if (apart.length < 3) return null;
  const usual = median(apart);
  const alike = apart.filter((a) => Math.abs(a - usual) <= 2).length;
  // Clips that all begin within a minute say nothing of a timecode that merely runs on.
  if (
    Math.abs(usual) < 5 ||
    alike < apart.length * 0.8 ||
    Math.max(...mine.map((m) => m.from)) - Math.min(...mine.map((m) => m.from)) < 60
  )
    return null;
  const { camera, day } = mine[0]!;
  const by = Math.round(usual);
  return {
    camera,
    fromDay: day,
    toDay: day,
    seconds: by,
    kind,
    meetings: [],
    of: mine.length,
    because:
      `${who} ${kind === 'timecode' ? 'stands' : ''} ${spanWords(by)} ${by > 0 ? 'later' : 'earlier'} than ${than} in ${alike} of ${apart.length} clips.`.replace(
        /  +/g,
        ' ',
      ),
  };
}

/** One suggestion for days in a row with the same finding. */
function joinDays(found: readonly ClockSuspicion[]): ClockSuspicion[] {
  const out: ClockSuspicion[] = [];
  for (const s of [...found].sort((a, b) =>
    a.camera < b.camera ? -1 : a.camera > b.camera ? 1 : a.fromDay - b.fromDay,
  )) {
    const last = out.at(-1);
    if (
      last &&
      last.camera === s.camera &&
      last.kind === s.kind &&
      last.seconds === s.seconds &&
      s.fromDay === last.toDay + 1
    ) {
      Object.assign(last, {
        toDay: s.toDay,
        meetings: [...last.meetings, ...s.meetings],
        of: last.of + s.of,
        because: `${last.because} Day ${s.fromDay}: ${s.because}`,
      });
    } else out.push({ ...s });
  }
  return out;
}

/** A clock time of a day, for lists. */
export const clockWords = (seconds: number): string => new Date(seconds * 1000).toISOString().slice(11, 19);
