// Records of version 1, of when a data folder held one job: what belongs to a job now was the job's, whose id was always the same.

type Row = Record<string, unknown>;

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
export function rowOfFirst(table: string, row: Row): Row {
  const { letter, ...rest } = row;
  const labelled = table === 'cameras' ? { ...rest, label: letter } : row;
  return OF_JOB.has(table) ? { ...labelled, job: THE_JOB } : labelled;
}

/** A key of version 1 as it is recorded now. */
export const keyOfFirst = (table: string, key: (string | number)[]): (string | number)[] =>
  KEYED.has(table) ? [THE_JOB, ...key] : key;

/**
 * What a person said of clips, which is recorded with them. Before migration 0009 the rate of stills, which the job is set to,
 * was recorded as if a person had said it: that is left out.
 */
export function saidIn(clips: readonly Row[], jobs: readonly Row[]): Row[] {
  const stillsRate = new Map(
    jobs.map((j) => [j.id, (j.intake as { stillsRate?: number } | undefined)?.stillsRate ?? 25]),
  );
  return clips.flatMap((c) =>
    ((c.statements ?? []) as Row[])
      .filter((s) => {
        const rate = (s.value as { rate?: { num: number; den: number } } | undefined)?.rate;
        return !(
          c.kind === 'stills' &&
          s.field === 'rate' &&
          rate?.den === 1 &&
          rate.num === stillsRate.get(c.job)
        );
      })
      .map((s) => ({ clip: c.id, field: s.field, value: s.value })),
  );
}
