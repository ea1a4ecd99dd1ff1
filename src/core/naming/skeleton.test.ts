import { expect, test } from '@jest/globals';
import { DEFAULT_FOLDER_PLAN, FolderPlan } from './convention';
import { skeletonFolders } from './skeleton';

const CARDS = [
  { day: 1, date: '2026-05-05', camera: 'A', card: 'A001' },
  { day: 1, date: '2026-05-05', camera: 'B', card: 'B001' },
  { day: 10, date: null, camera: 'B', card: 'B002' },
  { day: 2, date: '2026-05-06', camera: 'B', card: 'B003' },
];

test('a line is a folder, or one for each day, camera or card the job has', () => {
  expect(skeletonFolders(['{job}/Sound', '{job}/Exports/Day {day}'], 'SLW', CARDS)).toEqual([
    'SLW/Exports/Day 1',
    'SLW/Exports/Day 2',
    'SLW/Exports/Day 10',
    'SLW/Sound',
  ]);
  expect(skeletonFolders(['{camera}/{date}'], 'SLW', CARDS)).toEqual([
    'A/2026-05-05',
    'B/2026-05-05',
    'B/2026-05-06',
    'B/no date',
  ]);
});

test('a job without cards has those that are of no card', () => {
  expect(skeletonFolders(['{job}/Sound', '{card}', ' / '], 'SLW', [])).toEqual(['SLW/Sound']);
});

test('lines are kept with the folder plan; one with a word that is not known, or that leads out, is refused', () => {
  const read = (...skeleton: string[]) => FolderPlan.safeParse({ ...DEFAULT_FOLDER_PLAN, skeleton });
  expect(read('{job}/Sound').data?.skeleton).toEqual(['{job}/Sound']);
  expect(read('{scene}').error?.issues[0]?.message).toContain('{scene} is not known');
  expect(read('a/../..').error?.issues[0]?.message).toContain('cannot be . or ..');
  const { skeleton: _, ...older } = DEFAULT_FOLDER_PLAN;
  expect(FolderPlan.parse(older).skeleton).toEqual([]);
});
