import { expect, test } from '@jest/globals';
import { randomFrom } from '../platform/random';
import { ALL_SYSTEMS } from './check';
import { DEFAULT_FOLDER_PLAN } from './convention';
import { placeKey, type PlanClip, planFile, planNames, type Step, undoSteps } from './plan';

// Random shelves and random wishes, on a model of a disk that refuses to overwrite: a plan without problems can always be
// done and undone, step by step, and a plan with a clash is always told. Seeds are fixed, so that a failure comes again.

const NAMES = ['a', 'b', 'c', 'd', 'A', 'B', 'u\u0308', '\u00fc'];

function shelfOf(seed: number): { clips: PlanClip[]; strangers: string[] } {
  const random = randomFrom(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
  const taken = new Set<string>();
  const clips: PlanClip[] = [];
  for (let i = 0; i < 2 + random() * 6; i++) {
    const [folder, name] = [pick(['x', 'y', '']), pick(NAMES)];
    const path = (extension: string) =>
      folder === '' ? `${name}.${extension}` : `${folder}/${name}.${extension}`;
    if (taken.has(placeKey({ root: 'shelf', path: path('MP4') }))) continue;
    const files = ['MP4', ...(random() < 0.5 ? ['XML'] : [])].map((extension) => {
      taken.add(placeKey({ root: 'shelf', path: path(extension) }));
      return planFile({
        id: `${i}${extension}`,
        role: extension === 'MP4' ? 'original' : 'sidecar',
        place: { root: 'shelf', path: path(extension) },
        suffix: '',
        size: 1,
        modified: 1,
      });
    });
    clips.push({
      id: String(i),
      stem: pick(NAMES),
      folder: pick(['x', 'y', 'z']),
      folderPlan: DEFAULT_FOLDER_PLAN,
      files,
    });
  }
  const strangers = Array.from({ length: 2 }, () => `${pick(['x', 'y', 'z'])}/${pick(NAMES)}.MP4`).filter(
    (p) => !taken.has(placeKey({ root: 'shelf', path: p })),
  );
  return { clips, strangers };
}

function run(disk: Map<string, string>, steps: readonly Step[]): void {
  for (const s of steps) {
    const [from, to] = [placeKey(s.from), placeKey(s.to)];
    const content = disk.get(from);
    if (content === undefined) throw new Error(`${s.from.path} is not there`);
    disk.delete(from);
    if (disk.has(to)) throw new Error(`${s.to.path} would be overwritten`);
    disk.set(to, content);
  }
}

test('3 000 random plans: done without overwriting, undone without a trace, clashes always told', () => {
  let [clean, clashing] = [0, 0];
  for (let seed = 1; seed <= 3000; seed++) {
    const { clips, strangers } = shelfOf(seed);
    const disk = new Map<string, string>();
    for (const f of clips.flatMap((c) => c.files)) disk.set(placeKey(f.place), f.id);
    for (const s of strangers) disk.set(placeKey({ root: 'shelf', path: s }), 'stranger');
    const before = new Map(disk);
    const { steps, problems } = planNames(clips, {
      shelf: 'shelf',
      roots: new Map([['shelf', { name: 'Shelf', movable: true, volume: 'one' }]]),
      occupied: (_, at) => before.has(placeKey(at())),
      ownerAt: () => null,
      systems: ALL_SYSTEMS,
    });
    if (problems.length > 0) {
      clashing++;
      continue;
    }
    clean++;
    run(disk, steps);
    for (const c of clips)
      for (const f of c.files)
        expect(
          disk.get(placeKey({ root: 'shelf', path: `${c.folder}/${c.stem}${f.place.path.slice(-4)}` })),
        ).toBe(f.id);
    run(disk, undoSteps(steps));
    expect(disk).toEqual(before);
  }
  expect(clean).toBeGreaterThan(300);
  expect(clashing).toBeGreaterThan(300);
});
