import { formatRate, sameRate } from '../timecode/rate';
import { formatTimecode, sameAddress, type Timecode } from '../timecode/timecode';
import { fieldOf, type FieldId, FIELDS, SOURCE_WORDS, type Statement, type Value } from './catalogue';

/** A statement that won, and those it won over. */
export interface ChosenFact { chosen: Statement; others: Statement[] }

/** Something about a clip's facts a person should look at, in a sentence. */
export interface Finding { code: 'timecodeDisagrees' | 'timecodeZero' | 'timecodeMissing' | 'factDisagrees'; field: FieldId; text: string }

/** Fields whose sources are expected to differ by seconds: file times stamp the end of a recording, clocks the start. */
const LOOSE: ReadonlySet<FieldId> = new Set<FieldId>(['recordedAt', 'container', 'baseRate']);

/**
 * Chooses one statement per field by the catalogue's order of trust. A timecode of zero gives way to any other
 * statement: rewraps and careless copies write zero, cameras hardly ever start there (common practice).
 */
export function chooseFacts(statements: readonly Statement[]): Map<FieldId, ChosenFact> {
  const facts = new Map<FieldId, ChosenFact>();
  for (const field of FIELDS) {
    const all = statements.filter((s) => s.field === field.id);
    if (all.length === 0) continue;
    const trust: readonly string[] = field.trust;
    const rank = (s: Statement) => {
      const at = trust.indexOf(s.source);
      return (at < 0 ? trust.length : at) + (isZeroTimecode(s.value) && s.source !== 'person' ? 100 : 0);
    };
    const [chosen, ...others] = [...all].sort((a, b) => rank(a) - rank(b));
    facts.set(field.id, { chosen: chosen!, others });
  }
  return facts;
}

export const isZeroTimecode = (v: Value): boolean => v.type === 'timecode' && v.timecode.frame === 0;

/** Whether two values say the same, units and rates taken into account. */
export function sameValue(a: Value, b: Value): boolean {
  if (a.type === 'timecode' && b.type === 'timecode') return sameAddress(a.timecode, b.timecode);
  if (a.type === 'rate' && b.type === 'rate') return sameRate(a.rate, b.rate);
  if (a.type === 'moment' && b.type === 'moment') return a.moment.local === b.moment.local;
  if (a.type === 'count' && b.type === 'count') return a.count === b.count;
  return a.type === 'text' && b.type === 'text' && a.text.toLowerCase() === b.text.toLowerCase();
}

/** Whether a statement that was not chosen contradicts the chosen one. */
export function contradicts(id: FieldId, chosen: Statement, other: Statement): boolean {
  // A clock's guess is not a statement about the file: it stands in where nothing else does.
  return !LOOSE.has(id) && other.source !== 'clock' && !sameValue(other.value, chosen.value);
}

/** What a person should look at: disagreements, and a timecode that is missing or zero. */
export function findings(facts: ReadonlyMap<FieldId, ChosenFact>): Finding[] {
  const found: Finding[] = [];
  for (const [id, { chosen, others }] of facts) {
    for (const other of others.filter((o) => contradicts(id, chosen, o))) {
      const code = id === 'start' ? 'timecodeDisagrees' as const : 'factDisagrees' as const;
      found.push({
        code, field: id,
        text: `The ${SOURCE_WORDS[other.source]} says ${formatValue(other.value)}, the ${SOURCE_WORDS[chosen.source]} ${formatValue(chosen.value)}. The ${SOURCE_WORDS[chosen.source]} is used.`,
      });
    }
  }
  const start = facts.get('start')?.chosen;
  if (!start) found.push({ code: 'timecodeMissing', field: 'start', text: 'No timecode was found in any place: a relink by timecode will not work.' });
  else if (isZeroTimecode(start.value)) found.push({ code: 'timecodeZero', field: 'start', text: 'The timecode is zero: it may have been lost in a rewrap.' });
  else if (start.source === 'clock') found.push({ code: 'timecodeMissing', field: 'start', text: 'No timecode in the file: the time of day stands in for it.' });
  return found;
}

/** A value as a person reads it, with its unit where the field is named. */
export function formatValue(v: Value, id?: FieldId): string {
  switch (v.type) {
    case 'text': return v.text;
    case 'count': {
      const unit = id ? fieldOf(id).unit : '';
      return unit ? `${v.count} ${unit}` : String(v.count);
    }
    case 'rate': return `${formatRate(v.rate)} fps`;
    case 'timecode': return formatTimecode(v.timecode);
    case 'moment': return v.moment.local.replace('T', ' ');
  }
}

/** Typed look-ups into chosen facts; `null` where the field has none. */
export const text = (facts: ReadonlyMap<FieldId, ChosenFact>, id: FieldId): string | null => {
  const v = facts.get(id)?.chosen.value;
  return v?.type === 'text' ? v.text : null;
};
export const count = (facts: ReadonlyMap<FieldId, ChosenFact>, id: FieldId): number | null => {
  const v = facts.get(id)?.chosen.value;
  return v?.type === 'count' ? v.count : null;
};
export const rateOf = (facts: ReadonlyMap<FieldId, ChosenFact>, id: FieldId = 'rate') => {
  const v = facts.get(id)?.chosen.value;
  return v?.type === 'rate' ? v.rate : null;
};
export const startOf = (facts: ReadonlyMap<FieldId, ChosenFact>): Timecode | null => {
  const v = facts.get('start')?.chosen.value;
  return v?.type === 'timecode' ? v.timecode : null;
};
