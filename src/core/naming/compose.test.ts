import { expect, test } from '@jest/globals';
import { randomFrom } from '../platform/random';
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
  const composed = composePlan(data, request, nameClips(data, request), (_, at) => disk.includes(at().path));
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

test('a clip of which a file is not as it was read is said to stay, where it would be renamed', () => {
  const data = dataOf([clip('T1'), clip('T2'), clip('T3')]);
  const request = namingRequest({
    convention: named(newBlock('card'), newBlock('counter')),
    clips: ['T1', 'T2'],
  });
  const changed = ['T1', 'T3'].map((id) => ({ clip: id, text: `changed since it was read: ${id}.XML` }));
  const rowsOf = (of: NamingData) =>
    composePlan(of, request, nameClips(of, request), () => false, changed).rowsOf('problems');
  expect(rowsOf(data).map((r) => [r.clipId, r.problems])).toEqual([
    [
      'T1',
      [
        {
          level: 'look',
          code: 'changed',
          text: 'changed since it was read: T1.XML',
          mend: 'its clip would stay as it is; read the card again, or leave the clip out',
        },
      ],
    ],
  ]);
  expect(
    rowsOf({ ...data, clips: data.clips.map((c) => ({ ...c, held: ['is being copied'] })) }),
  ).toMatchObject([
    { clipId: 'T1', problems: [{ code: 'held' }] },
    { clipId: 'T2', problems: [{ code: 'held' }] },
  ]);
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

test('one plan after another of the same clips is what it is by itself', () => {
  const random = randomFrom(12);
  const one = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  const clips = Array.from({ length: 40 }, (_, i) =>
    clip(`T${i}`, {
      card: one(['A001', 'B001', 'B002']),
      camera: one(['A', 'B']),
      day: one([1, 2, null]),
      kind: one(['video', 'sound']),
      current: one([`T${i}`, `D1_${String(i + 1).padStart(3, '0')}`]),
      facts: one<Record<string, string>>([{}, { scene: '12' }, { scene: 'con', gamma: 'Log' }]),
    }),
  );
  const data = dataOf(clips, {
    given: [{ clipId: 'T3', series: 'day 1, camera B', number: 7, letter: '' }],
  });
  const blocks = () => [
    newBlock(one(['job', 'words', 'day', 'card']), 'a'),
    { ...newBlock(one(['scene', 'gamma']), 'b'), missing: one(['leaveOut', 'word', 'stop'] as const) },
    newBlock('counter', 'c', { per: one([[], ['day', 'camera'], ['folder']]), start: one([1, 5]) }),
  ];
  const folderPlan = () => ({
    ...DEFAULT_FOLDER_PLAN,
    levels: one([[[newBlock('card', 'f')]], [[newBlock('day', 'f')], [newBlock('scene', 'g')]]]),
  });
  const scope = () => ({
    kinds: one([[], ['sound' as const]]),
    cameras: one([[], ['A']]),
    cards: [],
    rates: [],
  });
  const rules = (): NamingRequest['rules'] =>
    one([[], [{ id: 'r', scope: scope(), convention: named(...blocks()), folderPlan: folderPlan() }]]);
  let given = { convention: named(...blocks()), folderPlan: folderPlan(), rules: rules() };
  let several = 0;
  for (let i = 0; i < 120; i++) {
    // One thing at a time, as a person changes it.
    const change: Partial<NamingRequest>[] = [
      { convention: named(...blocks().slice(0, 1), ...given.convention.blocks.slice(1)) },
      { convention: named(...blocks()) },
      { folderPlan: folderPlan() },
      { rules: rules() },
      { systems: one([[], ['ext4' as const]]) },
    ];
    given = { ...given, ...one(change) };
    const [again, alone] = [compose(data, given), compose(structuredClone(data), given)];
    expect(again.rows).toEqual(alone.rows);
    expect(again.plan.steps).toEqual(alone.plan.steps);
    expect([again.summary, again.numbers, again.fingerprint()]).toEqual([
      alone.summary,
      alone.numbers,
      alone.fingerprint(),
    ]);
    several += new Set(again.rows.map((r) => r.rule)).size;
  }
  expect(several).toBeGreaterThan(140);
});

test('numbers that are read from names are read anew when the convention changes', () => {
  const data = dataOf([clip('T1', { current: 'D1_002' }), clip('T2', { current: 'D1_001' })]);
  const counter = newBlock('counter', 'n', { orderBy: 'cameraName' });
  const stems = (...blocks: Convention['blocks']) =>
    compose(data, { convention: named(...blocks, counter) }).rows.map((r) => r.stem);
  expect(stems(newBlock('job'))).toEqual(['SLW_001', 'SLW_002']);
  expect(stems(newBlock('day'))).toEqual(['D1_002', 'D1_001']);
});

test('names that were given before and do not follow are found; a camera’s name does not count', () => {
  const data = dataOf([
    clip('T1', { current: 'B001_001' }),
    clip('T2', { current: 'B001_2' }),
    clip('T3'),
    clip('T4', { current: 'odd', held: ['is still being read: left out for now'] }),
  ]);
  const { counts, rowsOf } = compose(data);
  expect(counts).toMatchObject({ all: 4, strayed: 1 });
  expect(rowsOf('strayed').map((r) => r.clipId)).toEqual(['T2']);
});

test('two counters that start again for the same count by themselves, and each number is given once', () => {
  const data = dataOf([clip('T1'), clip('T2')]);
  const counters = [
    newBlock('counter', 'a', { per: ['day', 'camera'], orderBy: 'cameraName' }),
    newBlock('counter', 'b', { per: ['camera', 'day'], start: 10, step: 10, orderBy: 'cameraName' }),
    newBlock('counter', 'c', { per: [], orderBy: 'cameraName' }),
  ];
  const { rows, numbers } = compose(data, { convention: named(...counters) });
  expect(rows.map((r) => r.stem)).toEqual(['001_010_001', '002_020_002']);
  expect(new Set(numbers.map((n) => `${n.clipId} ${n.series}`)).size).toBe(6);
  // A clip that comes late goes on in each of them.
  const later = dataOf([clip('T1'), clip('T2'), clip('T3')], { given: numbers });
  expect(compose(later, { convention: named(...counters) }).rows.at(-1)!.stem).toBe('003_030_003');
});
