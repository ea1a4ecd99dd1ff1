import { expect, test } from '@jest/globals';
import { newBlock } from './blocks';
import { composePlan, nameClips, targetFolders } from './compose';
import { type Convention, DEFAULT_FOLDER_PLAN } from './convention';
import { sampleClip } from './sample';
import { namingRequest, type NamingData, type NamingRequest } from './shapes';

type Clip = NamingData['clips'][number];
const clip = (id: string, given: Partial<Clip> = {}): Clip => {
  const current = given.current ?? id;
  return {
    ...sampleClip(id),
    size: [1920, 1080],
    extension: '.MP4',
    held: [],
    beside: [],
    files: [
      {
        id: `${id} original`,
        role: 'original',
        place: { root: 'shelf', path: `In/${current}.MP4` },
        suffix: '',
        size: 10,
        modified: 1,
      },
    ],
    ...given,
  };
};
const dataOf = (clips: Clip[], given: Partial<NamingData> = {}): NamingData => ({
  clips,
  roots: [{ id: 'shelf', name: 'Shelf', movable: true, volume: 'one' }],
  shelf: 'shelf',
  given: [],
  notTaken: [],
  ...given,
});
const named = (...blocks: Convention['blocks']): Convention => ({ name: 'x', blocks, changes: [] });
const compose = (data: NamingData, given: Partial<NamingRequest> = {}, disk: string[] = []) => {
  const request = namingRequest({
    convention: named(newBlock('card'), newBlock('counter', 'n', { orderBy: 'cameraName' })),
    folderPlan: { ...DEFAULT_FOLDER_PLAN, levels: [[newBlock('card')]] },
    ...given,
  });
  const composed = composePlan(data, request, nameClips(data, request), (p) => disk.includes(p.path));
  return { ...composed, rows: composed.rowsOf('all') };
};
const codes = (c: ReturnType<typeof compose>) => c.rows.map((r) => r.problems.map((p) => p.code));

test('names count all clips of the job, the plan holds the chosen ones only', () => {
  const data = dataOf([clip('T1'), clip('T2'), clip('T3', { card: 'B002' })]);
  const { rows, plan, numbers } = compose(data, { clips: ['T2'] });
  expect(rows.map((r) => r.stem)).toEqual(['B001_002']);
  expect(plan.steps.map((s) => s.to.path)).toEqual(['B001/B001_002.MP4']);
  expect(numbers.map((n) => [n.clipId, n.number])).toEqual([['T2', 2]]);
  expect(compose(data, { cards: ['B002'] }).rows).toHaveLength(1);
});

test('what is left out, and what is held back, has no step and says why', () => {
  const data = dataOf([clip('T1'), clip('T2', { held: ['is still being copied: left out for now'] })]);
  const { rows, summary } = compose(data, { without: ['T1'] });
  expect(rows.map((r) => [r.out, r.steps])).toEqual([
    [true, 0],
    [true, 0],
  ]);
  expect(rows[1]!.problems[0]).toMatchObject({
    level: 'look',
    text: 'is still being copied: left out for now',
  });
  expect(summary).toMatchObject({ total: 2, clips: 0, steps: 0, looks: 1 });
});

test('one name in two folders is no clash, and is said: an edit finds clips by name', () => {
  const data = dataOf([clip('T1'), clip('T2', { card: 'B002' })]);
  const c = compose(data, { convention: named(newBlock('words', 'w', { text: 'Same' })) });
  expect(codes(c)).toEqual([['namesake'], ['namesake']]);
  expect(c.summary.stops).toBe(0);
});

test('files beside a clip that are nobody’s, reels too long for an edit list, extensions that come twice', () => {
  const data = dataOf([
    clip('T1', { beside: ['T1.TXT'] }),
    clip('T2', { card: 'B001-SECOND' }),
    clip('T3', { facts: { givenName: 'Wheel.mp4' } }),
  ]);
  const c = compose(data, { convention: named(newBlock('card'), newBlock('counter'), newBlock('listed')) });
  expect(codes(c).map((l) => l.filter((x) => x !== 'blockEmpty'))).toEqual([
    ['beside'],
    ['extension'],
    ['reel'],
  ]);
});

test('a name on the disk that is nobody’s stops the plan, one of its own clip does not', () => {
  const data = dataOf([clip('T1')]);
  expect(codes(compose(data, {}, ['B001/B001_001.MP4']))).toEqual([['exists']]);
  const there = dataOf([
    clip('T1', {
      current: 'B001_001',
      files: [{ ...clip('T1').files[0]!, place: { root: 'shelf', path: 'B001/B001_001.MP4' } }],
    }),
  ]);
  const c = compose(there, {}, ['B001/B001_001.MP4']);
  expect(codes(c)).toEqual([[]]);
  expect(c.summary).toMatchObject({ steps: 0, right: 1 });
});

test('the first rule that fits counts; its clips are numbered by themselves', () => {
  const scope = { kinds: [], cameras: [], cards: [], rates: [] };
  const rule = (id: string, text: string, of: Partial<typeof scope>) => ({
    id,
    scope: { ...scope, ...of },
    convention: named(newBlock('words', 'w', { text }), newBlock('counter', 'n', { per: [] })),
    folderPlan: DEFAULT_FOLDER_PLAN,
  });
  const data = dataOf([
    clip('T1'),
    clip('S1', { kind: 'sound', camera: 'S', card: 'S001' }),
    clip('T2', { rate: { num: 50, den: 1 } }),
  ]);
  const { rows } = compose(data, {
    rules: [rule('s', 'Sound', { kinds: ['sound'] as never }), rule('f', 'Fast', { rates: ['50'] as never })],
  });
  expect(rows.map((r) => [r.rule, r.stem])).toEqual([
    ['', 'B001_001'],
    ['f', 'Fast_001'],
    ['s', 'Sound_001'],
  ]);
});

test('the fingerprint is of the steps: it changes with them, and with nothing else', () => {
  const data = dataOf([clip('T1'), clip('T2')]);
  const one = compose(data).fingerprint();
  expect(compose(dataOf([clip('T2'), clip('T1')])).fingerprint()).toBe(one);
  expect(compose(data, { systems: ['ext4'] }).fingerprint()).toBe(one);
  expect(compose(data, { without: ['T2'] }).fingerprint()).not.toBe(one);
  const touched = dataOf([clip('T1'), clip('T2', { files: [{ ...clip('T2').files[0]!, modified: 2 }] })]);
  expect(compose(touched).fingerprint()).not.toBe(one);
});

test('the shelf before and after, and whose its folders are; folders the disk is asked about', () => {
  const data = dataOf([clip('T1'), clip('T2', { card: 'B002', day: 2 })]);
  expect(compose(data).summary.shelf).toEqual([
    { folder: 'B001', clips: 1, before: 0, changed: true, day: 1, camera: 'B', card: 'B001' },
    { folder: 'B002', clips: 1, before: 0, changed: true, day: 2, camera: 'B', card: 'B002' },
    { folder: 'In', clips: 0, before: 2, changed: false, day: null, camera: null, card: null },
  ]);
  const request = namingRequest({ folderPlan: { ...DEFAULT_FOLDER_PLAN, levels: [[newBlock('card')]] } });
  expect(targetFolders(data, request, nameClips(data, request))).toEqual([
    { root: 'shelf', folder: 'B001' },
    { root: 'shelf', folder: 'B002' },
  ]);
});
