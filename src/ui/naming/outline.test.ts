import { expect, test } from '@jest/globals';
import { outline } from './outline';

const draw = (folders: [string, number][]) =>
  outline(
    folders.map(([folder, clips]) => ({
      folder,
      clips,
      before: 0,
      changed: clips > 5,
      day: 1,
      camera: 'B',
      card: null,
    })),
  ).map((l) => `${' '.repeat(l.depth)}${l.name}${l.clips || '/'}${l.changed ? '*' : ''}`);

test('each folder stands once, below its own', () => {
  expect(
    draw([
      ['SLW/D1/A/A001', 4],
      ['SLW/D1/B/B001', 11],
      ['SLW/D2/B/B002', 10],
    ]),
  ).toEqual(['SLW/', ' D1/', '  A/', '   A0014', '  B/', '   B00111*', ' D2/', '  B/', '   B00210*']);
});

test('a folder that holds clips and folders is both; no folder is the root', () => {
  expect(
    draw([
      ['', 2],
      ['SLW', 3],
      ['SLW/D1', 1],
    ]),
  ).toEqual(['the place itself2', 'SLW3', ' D11']);
  expect(draw([])).toEqual([]);
});

test('folders of one name under others are not mixed up', () => {
  expect(
    draw([
      ['D1/B', 1],
      ['D2/B', 1],
    ]),
  ).toEqual(['D1/', ' B1', 'D2/', ' B1']);
});

test('a folder is of the day, camera and card that everything in it is of', () => {
  const of = (folder: string, day: number, camera: string, card: string) => ({
    folder,
    clips: 2,
    before: 0,
    changed: false,
    day,
    camera,
    card,
  });
  expect(
    outline([
      of('S/D1/A/A001', 1, 'A', 'A001'),
      of('S/D1/B/B001', 1, 'B', 'B001'),
      of('S/D2/B/B002', 2, 'B', 'B002'),
    ]).map((l) => [l.name, l.all, l.day, l.camera, l.card]),
  ).toEqual([
    ['S', 6, null, null, null],
    ['D1', 4, 1, null, null],
    ['A', 2, 1, 'A', 'A001'],
    ['A001', 2, 1, 'A', 'A001'],
    ['B', 2, 1, 'B', 'B001'],
    ['B001', 2, 1, 'B', 'B001'],
    ['D2', 2, 2, 'B', 'B002'],
    ['B', 2, 2, 'B', 'B002'],
    ['B002', 2, 2, 'B', 'B002'],
  ]);
});
