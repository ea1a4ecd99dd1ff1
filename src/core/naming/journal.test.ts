import { expect, test } from '@jest/globals';
import { journalPlaces, type JournalPlan, journalWays, stepsBack } from './journal';
import { placeKey, type Step } from './plan';

const place = (path: string) => ({ root: 'shelf', path });
const step = (file: string, from: string, to: string, kind: Step['kind'] = 'move'): Step => ({
  clipId: `clip of ${file}`,
  fileId: file,
  kind,
  from: place(from),
  to: place(to),
  size: 1,
  modified: 2,
});
const plan = (id: string, steps: Step[], undoes: string | null = null): JournalPlan => ({
  at: '2026-05-06T14:22:00Z',
  plan: id,
  kind: undoes ? 'undo' : 'name',
  undoes,
  roots: [],
  steps,
});

const keys = (...paths: string[]) => new Set(paths.map((p) => placeKey(place(p))));

test('a file’s way in a plan is from where it was to where its last step led; its places are looked at from the last, waiting names first', () => {
  const told = [
    plan('a', [step('1', 'x', '.y.moving'), step('2', 'y', 'x'), step('1', '.y.moving', 'y')]),
    plan('b', [step('1', 'y', 'z')]),
    plan('c', [step('1', 'y', '.x.moving'), step('1', '.x.moving', 'x')], 'a'),
  ];
  expect(journalWays(told, 'a')).toEqual([
    {
      clip: 'clip of 1',
      file: '1',
      step: step('1', 'x', 'y'),
      led: keys('.y.moving', 'y', '.x.moving'),
      before: keys('x'),
    },
    { clip: 'clip of 2', file: '2', step: step('2', 'y', 'x'), led: keys('x'), before: keys('y') },
  ]);
  expect(journalWays(told, 'b')[0]).toMatchObject({ led: keys('z'), before: keys('x', '.y.moving', 'y') });
  expect(
    journalPlaces(told)
      .get('1')!
      .map((p) => p.at.path),
  ).toEqual(['.x.moving', '.y.moving', 'x', 'z', 'y', 'x']);
  expect(
    journalPlaces(told)
      .get('2')!
      .map((p) => p.at.path),
  ).toEqual(['x', 'y']);
});

test('what a plan copied or gave a second name is not taken back', () => {
  const told = [
    plan('a', [step('1', 'x', 'y', 'copy'), step('2', 'v', 'w', 'link'), step('3', 'p', 'q', 'carry')]),
  ];
  expect(journalWays(told, 'a').map((w) => w.file)).toEqual(['3']);
});

test('files that changed places go back by way of a waiting name', () => {
  const told = [plan('a', [step('1', 'x', '.y.moving'), step('2', 'y', 'x'), step('1', '.y.moving', 'y')])];
  const back = stepsBack(journalWays(told, 'a').map((way) => ({ way, at: way.step.to })));
  const disk = new Map([
    ['x', '2'],
    ['y', '1'],
  ]);
  for (const s of back) {
    expect(disk.has(s.to.path)).toBe(false);
    disk.set(s.to.path, disk.get(s.from.path)!);
    disk.delete(s.from.path);
  }
  expect(Object.fromEntries(disk)).toEqual({ x: '1', y: '2' });
});
