/** The camera's own number in a clip name: the last run of digits, "0009" in T0009 and "004" in A001_C004. `null` where there is none. */
export function cameraNumber(
  stem: string,
): { digits: string; value: number; before: string; after: string } | null {
  const isDigit = (at: number): boolean => stem[at]! >= '0' && stem[at]! <= '9';
  let end = stem.length;
  while (end > 0 && !isDigit(end - 1)) end--;
  let begin = end;
  while (begin > 0 && isDigit(begin - 1)) begin--;
  const digits = stem.slice(begin, end);
  return digits === '' || digits.length > 12
    ? null
    : { before: stem.slice(0, begin), digits, value: Number(digits), after: stem.slice(end) };
}

/**
 * Numbers a camera's counter left out between the first and last of a card, as ranges. Names of different patterns are
 * counted apart; a step of more than 500 is a new start, not a gap.
 */
export function counterGaps(
  stems: readonly string[],
): { from: string; to: string; count: number; after: string }[] {
  const runs = new Map<
    string,
    { value: number; digits: string; stem: string; before: string; after: string }[]
  >();
  for (const stem of stems) {
    const n = cameraNumber(stem);
    if (!n) continue;
    const key = `${n.before}\0${n.after}`;
    const run = runs.get(key) ?? [];
    run.push({ ...n, stem });
    runs.set(key, run);
  }
  const gaps: { from: string; to: string; count: number; after: string }[] = [];
  for (const run of runs.values()) {
    run.sort((a, b) => a.value - b.value);
    for (let i = 1; i < run.length; i++) {
      const [a, b] = [run[i - 1]!, run[i]!];
      const count = b.value - a.value - 1;
      if (count < 1 || count > 500) continue;
      const name = (v: number) => a.before + String(v).padStart(a.digits.length, '0') + a.after;
      gaps.push({ from: name(a.value + 1), to: name(b.value - 1), count, after: a.stem });
    }
  }
  return gaps;
}

/** The numbers a card's clips have by one pattern of names, lowest and highest, with the names that bear them. */
export interface CounterRun {
  pattern: string;
  first: number;
  last: number;
  firstName: string;
  lastName: string;
}

/** The runs of a card, by the pattern of its names. */
export function counterRuns(stems: readonly string[]): CounterRun[] {
  const runs = new Map<string, CounterRun>();
  for (const stem of stems) {
    const n = cameraNumber(stem);
    if (!n) continue;
    const pattern = `${n.before}#${n.after}`;
    const run = runs.get(pattern);
    if (!run) runs.set(pattern, { pattern, first: n.value, last: n.value, firstName: stem, lastName: stem });
    else if (n.value < run.first) Object.assign(run, { first: n.value, firstName: stem });
    else if (n.value > run.last) Object.assign(run, { last: n.value, lastName: stem });
  }
  return [...runs.values()];
}

/** A clip with the camera's name and when it was recorded by the clock ("2026-05-06T14:22:05"); `null` where it does not say. */
export interface Counted {
  name: string;
  recordedAt: string | null;
}

/**
 * Where a camera's counter fell back although time went on: a restart where it begins anew at 1 or 2, else clips out of order
 * (a clock set back, a card mixed with another). In sentences, in the order recorded.
 */
export function counterTurns(clips: readonly Counted[]): string[] {
  const runs = new Map<string, (Counted & { value: number })[]>();
  for (const c of clips) {
    const n = cameraNumber(c.name);
    if (!n || c.recordedAt === null) continue;
    const key = `${n.before}\0${n.after}`;
    const run = runs.get(key);
    if (run) run.push({ ...c, value: n.value });
    else runs.set(key, [{ ...c, value: n.value }]);
  }
  return [...runs.values()].flatMap((run) => {
    run.sort((a, b) =>
      a.recordedAt! < b.recordedAt! ? -1 : a.recordedAt! > b.recordedAt! ? 1 : a.value - b.value,
    );
    return run.slice(1).flatMap((c, i) => {
      const before = run[i]!;
      if (c.value > before.value || (c.value === before.value && c.recordedAt === before.recordedAt))
        return [];
      return [
        c.value <= 2
          ? `the counter begins again with ${c.name} after ${before.name}`
          : `${c.name} was recorded after ${before.name}, though its number is lower: a clock was set, or cards were mixed`,
      ];
    });
  });
}
