import { afterAll, beforeAll, expect, test } from '@jest/globals';
import path from 'node:path';
import { ListIn } from '../../core/handover';
import { clipViews } from '../cards';
import { changeChoice, chosenClip, chooseView, undoChoice } from '../choose';
import { chosenWords } from '../facts';
import { beginJob } from '../jobs';
import { makeClip, TEST_JOB, type TestShelf, testShelf } from '../testing/media';
import { takeInCard } from '../testing/takeInCard';
import { listView, takeList } from './listsIn';

// Lists of others: what they say is shown, kept once, and can be taken back.

let s: TestShelf;
const ids = new Map<string, string>();

beforeAll(async () => {
  s = await testShelf();
  await beginJob(s.runtime, { name: 'Slack Water', code: 'SLW', zoneMinutes: 0 }, TEST_JOB);
  const clip = (name: string) => path.join(s.shelf, 'In', 'B001', 'CLIP', name);
  makeClip(clip('T0001.MP4'), { start: '14:22:05:00', frames: 50 });
  makeClip(clip('T0002.MP4'), { start: '15:00:00:00', frames: 50 });
  await takeInCard(s);
  for (const c of await clipViews(s.runtime)) ids.set(c.original, c.id);
});
afterAll(() => s.close());

const LIST = `Clip,Timecode,End,Kind,Keywords,Note,Scene,Take,Circled
T0001,,,,"wheel, Gate",windy,12,3,yes
T0002,15:00:00:10,15:00:01:00,Select,best,turns,,,
T0002,15:00:00:20,,,,splash,12,4,no
T0009,,,,lost,,,,
`;
const list = (text = LIST) => ListIn.parse({ text });
const marks = async (name: string) => {
  const { ranges, keywords } = await chosenClip(s.runtime, ids.get(name)!);
  const called = new Map((await chooseView(s.runtime)).keywords.map((k) => [k.id, k.name]));
  return {
    ranges: ranges.filter((r) => r.kind !== 'circled').map((r) => [r.kind, r.from, r.to, r.note]),
    keywords: keywords.map((k) => called.get(k)!).sort(),
  };
};

test('it is shown before anything is taken: which clips it means, and which lines mean none', async () => {
  const view = await listView(s.runtime, list());
  expect(view).toMatchObject({ found: 3, lost: 1, clips: 2 });
  expect(view.lines.map((l) => [l.line, l.clip, l.why])).toEqual([
    [5, null, 'no clip is named “T0009”'],
    [2, 'T0001 (B001)', null],
    [3, 'T0002 (B001)', null],
    [4, 'T0002 (B001)', null],
  ]);
  expect((await chooseView(s.runtime)).keywords).toEqual([]);
});

test('it is taken once: marks, and what is said of scenes, takes and notes; again adds nothing; undone, marks are gone', async () => {
  const taken = await takeList(s.runtime, list());
  expect(taken).toMatchObject({ text: 'From a list: 2 ranges and 3 keywords of clips added', said: 2 });
  expect(await marks('T0001')).toEqual({ ranges: [], keywords: ['Gate', 'wheel'] });
  expect((await marks('T0002')).ranges).toEqual([
    ['select', 10, 25, 'turns'],
    ['note', 20, 21, 'splash'],
  ]);
  const said = await chosenWords(s.runtime, ['scene', 'take', 'circled', 'comment']);
  expect(said.get(ids.get('T0001')!)).toEqual({ scene: '12', take: '3', circled: 'yes', comment: 'windy' });
  expect(said.get(ids.get('T0002')!)).toEqual({ scene: '12', take: '4', circled: 'no' });
  const again = await takeList(s.runtime, list());
  expect(again).toMatchObject({ text: 'From a list: 0 ranges and 0 keywords of clips added', undo: null });
  expect((await marks('T0002')).ranges).toHaveLength(2);
  await undoChoice(s.runtime, taken.undo!);
  expect(await marks('T0001')).toEqual({ ranges: [], keywords: [] });
  expect((await marks('T0002')).ranges).toEqual([]);
});

test('what is known already and would be otherwise is shown; several notes of a clip are one', async () => {
  const text = 'Clip,Scene,Note\nT0001,13,calm\nT0001,13,later rain\nT0002,12,\n';
  const { lines } = await listView(s.runtime, list(text));
  expect(lines.map((l) => l.replaces)).toEqual([['scene 12', 'note windy'], ['scene 12', 'note windy'], []]);
  await takeList(s.runtime, list(text));
  const said = await chosenWords(s.runtime, ['scene', 'comment']);
  expect(said.get(ids.get('T0001')!)).toEqual({ scene: '13', comment: 'calm; later rain' });
});

test('a keyword that is there keeps its name; a list that gives nothing is refused with what to do', async () => {
  await changeChoice(s.runtime, {
    ...{ do: 'addKeyword', clips: [ids.get('T0002')!], range: null, name: 'Wheel' },
  });
  await takeList(s.runtime, list('Clip,Keywords\nT0001,WHEEL\nT0002,wheel\n'));
  expect((await chooseView(s.runtime)).keywords.map((k) => [k.name, k.clips])).toEqual([['Wheel', 2]]);
  await expect(takeList(s.runtime, list('Clip,Weather\nT0001,sun\n'))).rejects.toMatchObject({
    message: 'This list gives nothing to any clip of the job.',
  });
  await expect(listView(s.runtime, list('Clip\n"T0001'))).rejects.toThrow('The list cannot be read');
});
