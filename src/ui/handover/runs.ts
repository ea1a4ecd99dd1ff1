/** Units across a strip. */
export const WIDTH = 1000;

/** A piece of a strip: one event, or several of a verdict too short to be told apart. */
export interface Run {
  from: number;
  to: number;
  verdict: number;
  /** Of its first event in the track. */
  place: number;
  events: number;
}

/** Events narrower than a unit are put together with those of their verdict beside them: what is drawn of thousands is no more than fits. */
export function runsOf(events: readonly (readonly [number, number, number])[], frames: number): Run[] {
  const unit = WIDTH / Math.max(1, frames);
  const runs: Run[] = [];
  /** The last of each verdict. */
  const last = new Map<number, Run>();
  events.forEach(([from, to, verdict], place) => {
    const [x, end] = [from * unit, to * unit];
    const before = last.get(verdict);
    if (before && x - before.to < 1 && (end - x < 2 || before.to - before.from < 2)) {
      before.to = Math.max(before.to, end);
      before.events++;
      return;
    }
    const run = { from: x, to: end, verdict, place, events: 1 };
    runs.push(run);
    last.set(verdict, run);
  });
  return runs;
}
