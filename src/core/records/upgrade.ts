// Records of version 1, of when a data folder held one job: what belongs to a job now was the job's, whose id was always the same.

const THE_JOB = 'job';
const OF_JOB: ReadonlySet<string> = new Set([
  'days',
  'cameras',
  'clocks',
  'cards',
  'clips',
  'offloads',
  'plans',
  'log',
]);
/** Tables whose keys have the job in them now. */
const KEYED: ReadonlySet<string> = new Set(['days', 'cameras', 'cards']);

/** A row of version 1 as it is recorded now. */
export function rowOfFirst(table: string, row: Record<string, unknown>): Record<string, unknown> {
  const { letter, ...rest } = row;
  const labelled = table === 'cameras' ? { ...rest, label: letter } : row;
  return OF_JOB.has(table) ? { ...labelled, job: THE_JOB } : labelled;
}

/** A key of version 1 as it is recorded now. */
export const keyOfFirst = (table: string, key: (string | number)[]): (string | number)[] =>
  KEYED.has(table) ? [THE_JOB, ...key] : key;
