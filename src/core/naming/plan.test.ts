import { describe, expect, test } from '@jest/globals';
import { ALL_SYSTEMS } from './check';
import { DEFAULT_FOLDER_PLAN, type FolderPlan } from './convention';
import {
  type Place,
  placeKey,
  type PlanClip,
  planFile,
  planNames,
  type PlanOptions,
  type Step,
  undoSteps,
} from './plan';

const at = (path: string, root = 'shelf'): Place => ({ root, path });
let n = 0;
const file = (
  path: string,
  role: PlanClip['files'][number]['role'] = 'original',
  suffix = '',
  root = 'shelf',
) => planFile({ id: `f${n++}`, role, place: at(path, root), suffix, size: 10, modified: 1 });
const clip = (id: string, stem: string, ...files: PlanClip['files'][number][]): PlanClip => ({
  id,
  stem,
  folder: 'SLW/B',
  folderPlan: DEFAULT_FOLDER_PLAN,
  files,
});
const ROOTS: PlanOptions['roots'] = new Map([
  ['shelf', { name: 'Shelf', movable: true, volume: 'one' }],
  ['proxies', { name: 'Proxies', movable: true, volume: 'one' }],
  ['far', { name: 'Far', movable: true, volume: 'two' }],
  ['cards', { name: 'Cards', movable: false, volume: 'three' }],
]);
const options = (disk: string[] = [], extra: Partial<PlanOptions> = {}): PlanOptions => ({
  shelf: 'shelf',
  roots: ROOTS,
  occupied: (_, at) => disk.includes(at().path),
  ownerAt: () => null,
  systems: ALL_SYSTEMS,
  ...extra,
});

/** Does the steps on a model of a disk that holds one name per key, as a volume without case does, and refuses to overwrite. */
function run(disk: Map<string, string>, steps: readonly Step[]): void {
  for (const s of steps) {
    const [from, to] = [placeKey(s.from), placeKey(s.to)];
    const content = disk.get(from);
    if (content === undefined) throw new Error(`${s.from.path} is not there`);
    if (s.kind !== 'uncopy' && disk.has(to)) throw new Error(`${s.to.path} would be overwritten`);
    if (s.kind !== 'copy') disk.delete(from);
    disk.set(to, content);
  }
}

describe('planNames', () => {
  test('the whole family follows its clip', () => {
    const p = planNames(
      [
        clip(
          '1',
          'SLW_001',
          file('B001/CLIP/T0001.MP4'),
          file('B001/CLIP/T0001.XML', 'sidecar'),
          file('B001/SUB/T0001_px.MP4', 'cameraProxy', '_px'),
          file('old/T0001.mp4', 'proxy', '', 'proxies'),
        ),
      ],
      options(),
    );
    expect(p.problems).toEqual([]);
    expect(p.steps.map((s) => `${s.kind} ${s.to.root}:${s.to.path}`)).toEqual([
      'move shelf:SLW/B/SLW_001.MP4',
      'move shelf:SLW/B/SLW_001.XML',
      'move shelf:SLW/B/Proxy/SLW_001_px.MP4',
      'move proxies:SLW/B/SLW_001.mp4',
    ]);
  });

  test('a root that may only be read is copied from, to the shelf', () => {
    const p = planNames([clip('1', 'SLW_001', file('T1.MP4', 'original', '', 'cards'))], options());
    expect(p.steps).toMatchObject([
      { kind: 'copy', from: at('T1.MP4', 'cards'), to: at('SLW/B/SLW_001.MP4') },
    ]);
  });

  test('a doubled extension is mended on the way', () => {
    const p = planNames([clip('1', 'N', file('SUB/T4_px.MP4.mp4', 'cameraProxy', '_px'))], options());
    expect(p.steps[0]!.to.path).toBe('SLW/B/Proxy/N_px.mp4');
  });

  test('what already correct already gives no step', () => {
    expect(planNames([clip('1', 'N', file('SLW/B/N.MP4'))], options(['SLW/B/N.MP4'])).steps).toEqual([]);
  });

  test.each([
    [
      'two clips of one name',
      [clip('1', 'N', file('a.MP4')), clip('2', 'N', file('b.MP4'))],
      [],
      ['1:clash', '2:clash'],
    ],
    [
      'names that differ in case only',
      [clip('1', 'n', file('a.MP4')), clip('2', 'N', file('b.mp4'))],
      [],
      ['1:clash', '2:clash'],
    ],
    [
      'names that differ in Unicode form only',
      [clip('1', 'Mu\u0308hle', file('a.MP4')), clip('2', 'M\u00fchle', file('b.MP4'))],
      [],
      ['1:clash', '2:clash'],
    ],
    ['a file that is there and not ours', [clip('1', 'N', file('a.MP4'))], ['SLW/B/N.MP4'], ['1:exists']],
    [
      'a clip that keeps its name',
      [clip('1', 'N', file('SLW/B/N.MP4')), clip('2', 'N', file('b.MP4'))],
      [],
      ['2:clash'],
    ],
    [
      'a family at odds with itself',
      [clip('1', 'N', file('a.xml', 'sidecar'), file('b.xml', 'sidecar'))],
      [],
      ['1:clash'],
    ],
  ])('%s stop the plan', (_, clips, disk, expected) => {
    const p = planNames(clips, options(disk));
    expect(p.problems.map((x) => `${x.clipId}:${x.code}`)).toEqual(expected);
    expect(p.problems.every((x) => x.level === 'stop')).toBe(true);
  });

  const planned = (plan: Partial<FolderPlan>, ...files: PlanClip['files'][number][]) =>
    planNames([{ ...clip('1', 'N', ...files), folderPlan: { ...DEFAULT_FOLDER_PLAN, ...plan } }], options());

  test.each<[string, Partial<FolderPlan>, string, string]>([
    ['beside the original', { roles: {} }, 'sidecar', 'move shelf:SLW/B/N.XML'],
    [
      'into a folder below it',
      { roles: { sidecar: { folder: 'Data', at: 'clip', root: null } } },
      'sidecar',
      'move shelf:SLW/B/Data/N.XML',
    ],
    [
      'into a tree of its own',
      { roles: { sidecar: { folder: 'Data', at: 'top', root: null } } },
      'sidecar',
      'move shelf:Data/SLW/B/N.XML',
    ],
    [
      'to another volume',
      { roles: { sidecar: { folder: '', at: 'clip', root: 'far' } } },
      'sidecar',
      'carry far:SLW/B/N.XML',
    ],
    [
      'to another root of the same volume',
      { roles: { sidecar: { folder: '', at: 'clip', root: 'proxies' } } },
      'sidecar',
      'move proxies:SLW/B/N.XML',
    ],
    ['copied', { manner: 'copy' }, 'sidecar', 'copy shelf:SLW/B/N.XML'],
    ['linked', { manner: 'link' }, 'sidecar', 'link shelf:SLW/B/N.XML'],
    ['with the clips, to their root', { root: 'far' }, 'sidecar', 'carry far:SLW/B/N.XML'],
    ['made proxies stay in their root', { root: 'far' }, 'proxy', 'move shelf:SLW/B/N.XML'],
  ])('a role goes %s', (_, plan, role, step) => {
    const p = planned(plan, file('a.XML', role as 'sidecar'));
    expect(p.problems).toEqual([]);
    expect(p.steps.map((s) => `${s.kind} ${s.to.root}:${s.to.path}`)).toEqual([step]);
  });

  test('nothing is brought where nothing may be written, and no second name to another volume', () => {
    expect(planned({ root: 'cards' }, file('a.MP4'))).toMatchObject({
      steps: [],
      problems: [{ code: 'root', level: 'stop' }],
    });
    expect(planned({ root: 'far', manner: 'link' }, file('a.MP4'))).toMatchObject({
      steps: [],
      problems: [{ code: 'otherVolume', level: 'stop' }],
    });
  });

  test('a clip that is not in the plan keeps its name', () => {
    const p = planNames([clip('1', 'N', file('a.MP4'))], options([], { ownerAt: () => '2' }));
    expect(p.problems).toMatchObject([
      { code: 'clash', text: 'a clip that is not in this plan has this name' },
    ]);
  });

  test('every problem says what would mend it', () => {
    const p = planNames([clip('1', 'N', file('a.MP4')), clip('2', 'N', file('b.MP4'))], options());
    expect(p.problems.every((x) => (x.mend ?? '').length > 10)).toBe(true);
  });

  test('long paths are said', () => {
    expect(planNames([clip('1', 'x'.repeat(250), file('a.MP4'))], options()).problems).toMatchObject([
      { level: 'look', code: 'longPath' },
    ]);
  });
});

describe('order', () => {
  const place = (names: [string, string][]) =>
    names.map(([from, to]) => clip(from, to, file(`SLW/B/${from}.MP4`)));
  test.each<[string, [string, string][]]>([
    [
      'a chain',
      [
        ['a', 'b'],
        ['b', 'c'],
        ['c', 'd'],
      ],
    ],
    [
      'two that change places',
      [
        ['a', 'b'],
        ['b', 'a'],
      ],
    ],
    [
      'a ring of four',
      [
        ['a', 'b'],
        ['b', 'c'],
        ['c', 'd'],
        ['d', 'a'],
      ],
    ],
    [
      'a ring and a chain',
      [
        ['x', 'y'],
        ['a', 'b'],
        ['b', 'a'],
        ['y', 'z'],
      ],
    ],
    ['case only', [['clip', 'CLIP']]],
  ])('%s: nothing is overwritten, and undo restores it', (_, names) => {
    const clips = place(names);
    const disk = new Map(clips.map((c) => [placeKey(c.files[0]!.place), c.id]));
    const before = new Map(disk);
    const { steps, problems } = planNames(clips, options(names.map(([a]) => `SLW/B/${a}.MP4`)));
    expect(problems).toEqual([]);
    run(disk, steps);
    expect(new Map([...disk])).toEqual(
      new Map(clips.map((c) => [placeKey(at(`SLW/B/${c.stem}.MP4`)), c.id])),
    );
    run(disk, undoSteps(steps));
    expect(disk).toEqual(before);
  });

  test('every way of renaming five files among themselves works', () => {
    const names = ['a', 'b', 'c', 'd', 'e'];
    const permute = (rest: string[]): string[][] =>
      rest.length === 0
        ? [[]]
        : rest.flatMap((x) => permute(rest.filter((y) => y !== x)).map((p) => [x, ...p]));
    for (const p of permute(names)) {
      const clips = place(names.map((from, i) => [from, p[i]!]));
      const disk = new Map(clips.map((c) => [placeKey(c.files[0]!.place), c.id]));
      run(disk, planNames(clips, options(names)).steps);
      for (const c of clips) expect(disk.get(placeKey(at(`SLW/B/${c.stem}.MP4`)))).toBe(c.id);
      expect(disk.size).toBe(5);
    }
  });

  test('a copy is taken back by removing it, not by moving it over its source', () => {
    const { steps } = planNames([clip('1', 'N', file('a.MP4', 'original', '', 'cards'))], options());
    expect(undoSteps(steps)).toMatchObject([
      { kind: 'uncopy', from: at('SLW/B/N.MP4'), to: at('a.MP4', 'cards') },
    ]);
  });
});

test('a chain of very many names that wait for one another is ordered, and a ring at its end opened', () => {
  const LENGTH = 20_000;
  const files_ = Array.from({ length: LENGTH }, (_, i) =>
    clip(String(i), `N${i + 1}`, file(`SLW/B/N${i}.MP4`)),
  );
  const { steps, problems } = planNames(files_, options());
  expect(problems).toEqual([]);
  const disk = new Map(files_.map((c) => [placeKey(c.files[0]!.place), c.id]));
  run(disk, steps);
  expect(disk.get(placeKey(at(`SLW/B/N${LENGTH}.MP4`)))).toBe(String(LENGTH - 1));
  // The last takes the first one's name: all of them wait in a ring.
  const ring = Array.from({ length: LENGTH }, (_, i) =>
    clip(String(i), `N${(i + 1) % LENGTH}`, file(`SLW/B/N${i}.MP4`)),
  );
  const around = new Map(ring.map((c) => [placeKey(c.files[0]!.place), c.id]));
  run(around, planNames(ring, options()).steps);
  expect(around.get(placeKey(at('SLW/B/N0.MP4')))).toBe(String(LENGTH - 1));
  expect(around.size).toBe(LENGTH);
});
