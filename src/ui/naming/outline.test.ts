import { expect, test } from '@jest/globals';
import { outline } from './outline';

const draw = (folders: [string, number][]) =>
  outline(folders.map(([folder, clips]) => ({ folder, clips, changed: clips > 5 }))).map(
    (l) => `${' '.repeat(l.depth)}${l.name}${l.clips || '/'}${l.changed ? '*' : ''}`,
  );

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
  ).toEqual(['the root itself2', 'SLW3', ' D11']);
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
