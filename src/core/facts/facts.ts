import { matrixBy } from '../platform/matrix';
import { formatRate, fps, type Rate, sameRate, STANDARD_RATES } from '../platform/timecode/rate';
import { crossesMidnight, endOf, type Timecode } from '../platform/timecode/timecode';
import {
  fieldOf,
  type FieldId,
  FIELDS,
  formatValue,
  SOURCE_WORDS,
  type Source,
  type Statement,
  type Trust,
  trustOf,
  timeOfDayValue,
} from './catalogue';
import { type Moment, numberOf, sameValue, type Value } from './values';

/** A statement that won, and those it won over. */
export interface ChosenFact {
  chosen: Statement;
  others: Statement[];
}
export type Facts = ReadonlyMap<FieldId, ChosenFact>;

export const FINDING_CODES = [
  'timecodeDisagrees',
  'timecodeZero',
  'timecodeMissing',
  'midnight',
  'rateForeign',
  'rateVaries',
  'factDisagrees',
] as const;
/** Something about a clip's facts a person should look at, in a sentence. */
export interface Finding {
  code: (typeof FINDING_CODES)[number];
  field: FieldId;
  text: string;
}

/** What the job knows that a clip does not: the person's order of trust, how far the camera's clock was off, the rate that is edited at. */
export interface FactContext {
  trust?: Trust;
  /** Seconds to be added to what the camera's clock said. */
  clockSeconds?: number;
  /** The rate of the edit; `null` or absent where nobody said and the clips do not tell. */
  jobRate?: Rate | null;
}

/**
 * Fields whose sources differ by their nature: file times stamp the end of a recording, clocks the start; programs name
 * containers, profiles and themselves differently; averages are counted in more ways than one.
 */
const LOOSE: ReadonlySet<FieldId> = new Set<FieldId>([
  'recordedAt',
  'container',
  'brand',
  'baseRate',
  'software',
  'profile',
  'level',
  'codecTag',
  'bitRate',
  'audioBitRate',
  'length',
  'title',
  'description',
  'comment',
  'channelLayout',
  'uniqueId',
  'cameraName',
  'lookName',
  'altitude',
  'latitude',
  'longitude',
  'iso',
  'shutter',
  'aperture',
]);
/** Fields by their place in the catalogue. */
const PLACES: ReadonlyMap<FieldId, number> = new Map(FIELDS.map((f, i) => [f.id, i]));
/** Sources whose recorded time comes from the camera's clock: a correction of that clock moves them all. */
const CLOCKED: ReadonlySet<Source> = new Set<Source>([
  'sidecar',
  'bext',
  'tags',
  'container',
  'flightLog',
  'name',
  'fileTime',
]);

/**
 * Chooses one statement per field by the order of trust. A timecode of zero gives way to any other statement: rewraps
 * and careless copies write zero, cameras hardly ever start there (common practice).
 */
export function chooseFacts(statements: readonly Statement[], trust: Trust = {}): Map<FieldId, ChosenFact> {
  const byField = new Map<FieldId, Statement[]>();
  for (const s of statements) {
    const list = byField.get(s.field);
    if (list) list.push(s);
    else byField.set(s.field, [s]);
  }
  const facts = new Map<FieldId, ChosenFact>();
  // In the catalogue's order; most clips state few of its fields.
  const stated = [...byField.keys()].filter((id) => PLACES.has(id));
  for (const id of stated.sort((a, b) => PLACES.get(a)! - PLACES.get(b)!)) {
    const all = byField.get(id)!;
    const [chosen, ...others] = all.length === 1 ? all : ranked(all, trustOf(id, trust));
    facts.set(id, { chosen: chosen!, others });
  }
  return facts;
}

/** Statements of one field, the most trusted first. */
function ranked(all: readonly Statement[], order: readonly Source[]): Statement[] {
  const rank = (s: Statement): number => {
    const at = order.indexOf(s.source);
    return (at < 0 ? order.length : at) + (isZeroTimecode(s.value) && s.source !== 'person' ? 100 : 0);
  };
  return [...all].sort((a, b) => rank(a) - rank(b));
}

/**
 * What a job believes of a clip, for what is made of it and proven: of the fields that it has its own order of trust for only the statement that
 * counts, and no time of day in place of a timecode. Whoever chooses among these chooses as the job does.
 */
export function believed(statements: readonly Statement[], trust: Trust): Statement[] {
  const stated = statements.filter((s) => s.field !== 'start' || !isTimeOfDay(s));
  const own = chooseFacts(
    stated.filter((s) => trust[s.field] !== undefined),
    trust,
  );
  return stated.filter((s) => (own.get(s.field)?.chosen ?? s) === s);
}

/** A moment some seconds later. */
export function laterMoment(m: Moment, seconds: number): Moment {
  return {
    ...m,
    local: new Date(Date.parse(`${m.local}Z`) + Math.round(seconds) * 1000).toISOString().slice(0, 19),
  };
}

/**
 * The facts of a clip as the job sees them: chosen by trust, the camera's clock put right, and what follows from others
 * worked out. What was read stays among the statements, untouched.
 */
export function factsOf(
  statements: readonly Statement[],
  context: FactContext = {},
): Map<FieldId, ChosenFact> {
  const facts = chooseFacts(statements, context.trust);
  const off = context.clockSeconds ?? 0;
  const recorded = facts.get('recordedAt');
  if (
    off !== 0 &&
    recorded &&
    recorded.chosen.value.type === 'moment' &&
    CLOCKED.has(recorded.chosen.source)
  ) {
    const right = laterMoment(recorded.chosen.value.moment, off);
    facts.set('recordedAt', {
      chosen: { field: 'recordedAt', source: 'correction', value: { type: 'moment', moment: right } },
      others: [recorded.chosen, ...recorded.others],
    });
    const start = facts.get('start');
    // The time of day that stands in for a timecode is the clock's, so it is put right too; a timecode of the file is not.
    if (start?.chosen.source === 'clock' && start.chosen.value.type === 'timecode') {
      const { rate, drop } = start.chosen.value.timecode;
      const value = timeOfDayValue(secondsOfDay(right), rate, drop);
      if (value)
        facts.set('start', {
          chosen: { field: 'start', source: 'correction', value },
          others: [start.chosen, ...start.others],
        });
    }
  }
  const worked = (field: FieldId, value: Value) => {
    if (!facts.has(field)) facts.set(field, { chosen: { field, value, source: 'workedOut' }, others: [] });
  };
  const [rate, frames, start] = [rateOf(facts), count(facts, 'frames'), startOf(facts)];
  if (start && frames !== null) worked('end', { type: 'timecode', timecode: endOf(start, frames) });
  const speed = speedOf(facts, context.jobRate ?? null);
  if (speed !== null) worked('speed', { type: 'number', number: speed });
  if (rate && frames !== null) worked('length', { type: 'number', number: (frames * rate.den) / rate.num });
  return facts;
}

/** Seconds since midnight of a moment's local time. */
export function secondsOfDay(m: Moment): number {
  const [h, min, s] = m.local.slice(11).split(':').map(Number) as [number, number, number];
  return h * 3600 + min * 60 + s;
}

/** How fast a clip runs when it is played as it is meant to be, in percent; `null` where nothing tells. */
function speedOf(facts: Facts, jobRate: Rate | null): number | null {
  const [rate, sensor, base] = [rateOf(facts), rateOf(facts, 'sensorRate'), rateOf(facts, 'baseRate')];
  const captured = sensor ?? rate;
  const played =
    base ??
    (sensor && rate && !sameRate(sensor, rate)
      ? rate
      : jobRate && captured && isMultiple(captured, jobRate)
        ? jobRate
        : rate);
  return captured && played ? Math.round((fps(played) / fps(captured)) * 1e5) / 1e3 : null;
}

/** Whether a rate is a whole number of times another: 50 and 100 are of 25, 59.94 is of 29.97. */
const isMultiple = (fast: Rate, slow: Rate): boolean => (fast.num * slow.den) % (fast.den * slow.num) === 0;

/** Sources of a start that is the time of day, as the clock said it or as that was put right: it stands in for a timecode that nothing states. */
export const TIME_OF_DAY = ['clock', 'correction'] as const satisfies readonly Source[];
export const isTimeOfDay = ({ source }: Pick<Statement, 'source'>): boolean =>
  (TIME_OF_DAY as readonly Source[]).includes(source);

export const isZeroTimecode = (v: Value): boolean => v.type === 'timecode' && v.timecode.frame === 0;

/** Whether a statement that was not chosen contradicts the chosen one. */
export function contradicts(id: FieldId, chosen: Statement, other: Statement): boolean {
  // A clock's guess, or what a name looks like, is not a statement about the file: they are used where nothing else states it.
  return (
    !LOOSE.has(id) &&
    other.source !== 'clock' &&
    other.source !== 'name' &&
    !sameValue(other.value, chosen.value) &&
    !isCodedSize(id, chosen.value, other.value)
  );
}

/**
 * Whether two sizes are the shown and the coded one of the same picture: coding rounds up to blocks of 16 pixels (ITU-T H.264,
 * macroblocks), 1080 lines to 1088, or each field's 540 to 544.
 */
function isCodedSize(id: FieldId, a: Value, b: Value): boolean {
  if ((id !== 'width' && id !== 'height') || a.type !== 'count' || b.type !== 'count') return false;
  const [shown, coded] = [Math.min(a.count, b.count), Math.max(a.count, b.count)];
  const up = (n: number): number => Math.ceil(n / 16) * 16;
  return coded === up(shown) || (id === 'height' && shown !== coded / 2 && shown === up(coded / 2));
}

/** What a person should look at: disagreements, a timecode that is missing or zero, a rate that is not the job's. */
export function findings(facts: Facts, context: FactContext = {}): Finding[] {
  const found: Finding[] = [];
  for (const [id, { chosen, others }] of facts) {
    for (const other of others.filter((o) => contradicts(id, chosen, o))) {
      const code = id === 'start' ? ('timecodeDisagrees' as const) : ('factDisagrees' as const);
      const what = id === 'start' ? '' : `${fieldOf(id).term}: `;
      const [theirs, mine] = [SOURCE_WORDS[other.source], SOURCE_WORDS[chosen.source]];
      const says = `${what}${what ? 'the' : 'The'} ${theirs} says ${formatValue(other.value, id)}, the ${mine} ${formatValue(chosen.value, id)}. The ${mine} is used.`;
      found.push({
        code,
        field: id,
        text:
          chosen.source === 'person'
            ? `${what}${what ? 'the' : 'The'} ${theirs} says ${formatValue(other.value, id)}, you said ${formatValue(chosen.value, id)}.`
            : says,
      });
    }
  }
  const rate = rateOf(facts);
  const stated = facts.get('rate');
  // Stills have the rate they are shown at, which is set, and no timecode to lose.
  if (
    rate &&
    stated &&
    [stated.chosen, ...stated.others].some((s) => s.source !== 'person' && s.source !== 'setting')
  ) {
    const start = facts.get('start')?.chosen;
    if (!start)
      found.push({
        code: 'timecodeMissing',
        field: 'start',
        text: 'No timecode was found in any place: a relink by timecode will not work.',
      });
    else if (isZeroTimecode(start.value))
      found.push({
        code: 'timecodeZero',
        field: 'start',
        text: 'The timecode is zero: it may have been lost in a rewrap.',
      });
    else if (isTimeOfDay(start))
      found.push({
        code: 'timecodeMissing',
        field: 'start',
        text: 'No timecode in the file: the time of day stands in for it.',
      });
    const [least, most] = [numberIn(facts, 'rateLeast'), numberIn(facts, 'rateMost')];
    if (least !== null && most !== null)
      found.push({
        code: 'rateVaries',
        field: 'rate',
        text: `The frame rate varies from ${formatFps(least)} to ${formatFps(most)}, ${formatRate(rate)} on average: an edit by frames and timecode may drift against the sound.`,
      });
    const [address, frames] = [startOf(facts), count(facts, 'frames')];
    if (address && frames !== null && address.frame > 0 && crossesMidnight(address, frames)) {
      found.push({
        code: 'midnight',
        field: 'end',
        text: 'The timecode runs past midnight: some programs read its end as earlier than its start.',
      });
    }
    const { jobRate } = context;
    const real = rateOf(facts, 'baseRate') ?? rate;
    if (jobRate && !isMultiple(real, jobRate))
      found.push({
        code: 'rateForeign',
        field: 'rate',
        text: `${formatRate(real)} fps does not belong to a job at ${formatRate(jobRate)}: it has to be converted.`,
      });
  }
  return found;
}

const formatFps = (n: number): string => String(Math.round(n * 100) / 100);

/** How much of the material has to be recorded at a rate itself for it to be the rate of the edit. */
const OWN_SHARE = 0.25;
/** Rates that are edited at; what is recorded faster is slowed down. Frames per second. */
const EDITED_AT = { from: 23, to: 60 };

/**
 * The rate of the edit by the material: a standard rate that much of it is recorded at, and of which most of it is a whole
 * multiple. `seconds` weigh: a few short clips decide nothing, nor does what is slower than a frame a second. `null` where fewer than three clips or no clear majority tell.
 */
export function commonRate(material: readonly { rate: Rate; seconds: number }[]): Rate | null {
  const counted = material.filter((m) => fps(m.rate) >= 1);
  if (counted.length < 3) return null;
  const total = counted.reduce((n, m) => n + m.seconds, 0);
  const share = (counts: (r: Rate) => boolean) =>
    counted.reduce((n, m) => n + (counts(m.rate) ? m.seconds : 0), 0) / total;
  const best = STANDARD_RATES.filter((r) => fps(r) >= EDITED_AT.from && fps(r) <= EDITED_AT.to)
    .filter((r) => share((m) => sameRate(m, r)) >= OWN_SHARE)
    .map((r) => ({ rate: r, share: share((m) => isMultiple(m, r)) }))
    .sort((x, y) => y.share - x.share || fps(x.rate) - fps(y.rate))[0];
  return best && best.share > 0.5 ? best.rate : null;
}

/** Typed look-ups into chosen facts; `null` where the field has none. */
export const text = (facts: Facts, id: FieldId): string | null => {
  const v = facts.get(id)?.chosen.value;
  return v?.type === 'text' ? v.text : null;
};
export const count = (facts: Facts, id: FieldId): number | null => {
  const v = facts.get(id)?.chosen.value;
  return v?.type === 'count' ? v.count : null;
};
export const flag = (facts: Facts, id: FieldId): boolean | null => {
  const v = facts.get(id)?.chosen.value;
  return v?.type === 'flag' ? v.flag : null;
};
export const numberIn = (facts: Facts, id: FieldId): number | null => {
  const v = facts.get(id)?.chosen.value;
  return v ? numberOf(v) : null;
};
export const rateOf = (facts: Facts, id: FieldId = 'rate'): Rate | null => {
  const v = facts.get(id)?.chosen.value;
  return v?.type === 'rate' ? v.rate : null;
};
/** The matrix of a clip's picture for FFmpeg's scaler. What JPEG is made by its decoder knows. */
export const matrixOf = (facts: Facts): string =>
  (text(facts, 'codec') ?? '').includes('JPEG')
    ? 'auto'
    : matrixBy(text(facts, 'matrix'), count(facts, 'height'));
/** The same of a clip's proxy, which states what it has become; one that states nothing is of an original that does not, either. */
export const proxyMatrixOf = (facts: Facts): string =>
  text(facts, 'matrix') === null ? matrixOf(facts) : 'auto';
export const startOf = (facts: Facts): Timecode | null => {
  const v = facts.get('start')?.chosen.value;
  return v?.type === 'timecode' ? v.timecode : null;
};
export const momentOf = (facts: Facts): Moment | null => {
  const v = facts.get('recordedAt')?.chosen.value;
  return v?.type === 'moment' ? v.moment : null;
};
