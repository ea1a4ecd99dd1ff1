import { describe, expect, test } from '@jest/globals';
import { Turns } from './turns';

/** Does work in the order of its turns, and says whose it was. */
class Line {
  #waiting: { job: string; turn: number }[] = [];
  add(job: string, n: number): void {
    const turns = new Turns(
      this.#waiting.length === 0 ? 1 : Math.min(...this.#waiting.map((w) => w.turn)),
      [...this.#waiting].sort((a, b) => a.turn - b.turn).map((w) => [w.job, w.turn] as const),
    );
    for (let i = 0; i < n; i++) this.#waiting.push({ job, turn: turns.next(job) });
  }
  work(n: number): string {
    let done = '';
    for (let i = 0; i < n; i++) {
      const first = this.#waiting.reduce((a, b) => (b.turn < a.turn ? b : a));
      this.#waiting = this.#waiting.filter((w) => w !== first);
      done += first.job;
    }
    return done;
  }
}

describe('jobs take turns', () => {
  test('one alone is done in its order; a second takes every other turn, however much the first has queued', () => {
    const line = new Line();
    line.add('a', 1000);
    expect(line.work(4)).toBe('aaaa');
    line.add('b', 3);
    expect(line.work(8)).toBe('abababaa');
  });

  test('a job that comes late does not overtake with all that it might have had before', () => {
    const line = new Line();
    line.add('a', 1000);
    line.work(500);
    line.add('b', 500);
    const done = line.work(100);
    expect([...done].filter((j) => j === 'a').length).toBe(50);
  });

  test('a job that was idle begins where the others are', () => {
    const line = new Line();
    line.add('b', 2);
    line.work(2);
    line.add('a', 300);
    line.work(200);
    line.add('b', 2);
    expect(line.work(4)).toBe('abab');
  });
});
