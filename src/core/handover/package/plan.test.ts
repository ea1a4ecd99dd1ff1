import { expect, test } from '@jest/globals';
import { type Form, Form as FormShape, imagesIn, READY_FORMS } from './form';
import { comparePlans, type Packable, type PackClip, placeKey, planItems, type Sent, sentKey } from './plan';

const form = (of: Partial<Form> = {}): Form => ({ ...READY_FORMS[0]!, ...of });
const NOBODY_SAID = { reel: null, scene: null, take: null };
let count = 0;
const file = (what: Packable['what'], name: string, of: Partial<Packable> = {}): Packable => ({
  ...{ file: `f${++count}`, what, name, root: 'shelf', path: `A/${name}`, size: 10, modified: 1 },
  ...{ onCard: null, away: null, image: null, renamed: true, ...of },
});
const of001 = {
  job: 'SLW',
  day: 1,
  date: '2026-05-05',
  camera: 'A',
  card: 'A001',
  original: 'C0001',
  ...NOBODY_SAID,
};
const clip = (stem: string, files: Packable[], of: Partial<PackClip> = {}): PackClip => ({
  ...{ clip: `c-${stem}-${++count}`, stem, words: of001, byName: false, files, notes: [], ...of },
});
const places = (f: Form, clips: PackClip[], before?: ReadonlyMap<string, string>) =>
  planItems(f, clips, before).items.map((i) => i.place);

test('only what the form asks for goes, in its folders and by its names', () => {
  const of = clip('T1', [
    file('edit', 'T1_px.mov'),
    file('original', 'T1.MP4'),
    file('original', 'T1M01.XML'),
    file('look', 'T1.cdl'),
    file('sound', 'T1.wav'),
  ]);
  expect(places(form({ media: ['edit'] }), [of])).toEqual(['Edit/A001/T1_px.mov']);
  expect(places(form({ media: ['edit'], names: 'original' }), [of])).toEqual(['Edit/A001/T1.mov']);
  // Segments of footage that goes in place of a proxy are two, with names of their own.
  const segments = clip(
    'T1',
    [1, 2].map((n) => file('edit', `T1_${n}.MP4`, { renamed: false })),
  );
  expect(places(form({ media: ['edit'], names: 'original' }), [segments])).toEqual([
    'Edit/A001/T1_1.MP4',
    'Edit/A001/T1_2.MP4',
  ]);
  // Originals keep their names, whatever is said of what is cut with.
  expect(places(form({ media: ['original', 'look'], folders: 'day', names: 'original' }), [of])).toEqual([
    'Originals/Day 01/A001/T1.MP4',
    'Originals/Day 01/A001/T1M01.XML',
    'Looks/Day 01/A001/T1.cdl',
  ]);
  expect(places(form({ media: ['sound'], folders: 'one' }), [of])).toEqual(['Sound/T1.wav']);
});

test('no two files go to one place, on no volume; no name is changed for it', () => {
  const twice = ['T1.MP4', 't1.mp4', 'T1.MP4', 'Mu\u0308hle.MP4', 'M\u00fchle.MP4'].map((name, i) =>
    clip(name, [file('original', name)], {
      words: { ...of001, card: i === 2 ? 'A002' : 'A001' },
    }),
  );
  const all = places(form({ media: ['original'], folders: 'one' }), twice);
  expect(all).toEqual([
    'Originals/T1.MP4',
    'Originals/A001/t1.mp4',
    'Originals/A002/T1.MP4',
    'Originals/Mu\u0308hle.MP4',
    'Originals/A001/M\u00fchle.MP4',
  ]);
  expect(places(form({ media: ['original'], folders: 'card' }), twice.slice(0, 2))).toEqual([
    'Originals/A001/T1.MP4',
    'Originals/A001/2/t1.mp4',
  ]);
  // Of very many with few names, as well.
  const many = Array.from({ length: 2000 }, (_, i) => clip(`T${i % 7}`, [file('original', `T${i % 7}.MP4`)]));
  for (const folders of ['one', 'card', 'day'] as const) {
    const keys = places(form({ media: ['original'], folders }), many).map(placeKey);
    expect(new Set(keys).size).toBe(2000);
  }
});

test('names by a pattern of one’s own are for what was made; what a camera wrote keeps its own', () => {
  const by = (namePattern: string) =>
    form({
      media: ['edit', 'original', 'used', 'sound', 'view'],
      folders: 'one',
      names: 'pattern',
      namePattern,
    });
  const of = clip(
    'T1',
    [
      file('edit', 'T1_px.mov'),
      file('edit', 'T1_2.MP4', { renamed: false }),
      file('original', 'T1.MP4', { renamed: false }),
      file('used', 'T1_14220500.mov'),
      file('sound', 'T1.wav', { renamed: false }),
      file('view', 'T1_view.mp4'),
    ],
    { words: { ...of001, scene: '12/A', reel: 'R01' } },
  );
  expect(places(by('{job}_{scene}_{take}_{name}'), [of])).toEqual([
    'Edit/SLW_12_A_no take_T1_px.mov',
    'Edit/T1_2.MP4',
    'Originals/T1.MP4',
    'Used frames/SLW_12_A_no take_T1_14220500.mov',
    'Sound/T1.wav',
    'For viewing/SLW_12_A_no take_T1_view.mp4',
  ]);
  expect(places(by('Day {day} {camera} {date} {reel} {original}'), [of])[0]).toBe(
    'Edit/Day 1 A 2026-05-05 R01 C0001.mov',
  );
});

test('a name by a pattern that another file has is kept, in a folder beside, which is said; so is one that cannot be', () => {
  const by = (namePattern: string, of: Partial<Form> = {}) =>
    form({ media: ['edit'], folders: 'one', names: 'pattern', namePattern, ...of });
  const two = ['T1', 'T2'].map((n) => clip(n, [file('edit', `${n}.mov`)], { byName: true }));
  const plan = planItems(by('{job}'), two);
  expect(plan.items.map((i) => i.place)).toEqual(['Edit/SLW.mov', 'Edit/A001/SLW.mov']);
  const alone =
    'an edit made with it finds its original by its name alone, and will not by its new one: let editing media keep their names';
  expect(plan.remarks).toEqual([
    { clip: two[0]!.clip, what: 'edit', why: alone },
    {
      ...{ clip: two[1]!.clip, what: 'edit' },
      why: 'another file has its new name, so that it goes to Edit/A001: {name} in the pattern tells them apart',
    },
    { clip: two[1]!.clip, what: 'edit', why: alone },
  ]);
  // As it is called already nothing is said, nor of what keeps its place.
  expect(planItems(by('{name}'), two).remarks).toEqual([]);
  const before = new Map([[sentKey(two[0]!.files[0]!), 'Edit/T1.mov']]);
  expect(planItems(by('{scene}'), [two[0]!], before)).toMatchObject({
    items: [{ place: 'Edit/T1.mov' }],
    remarks: [],
  });
  const device = clip('T3', [file('edit', 'T3.mov')], { words: { ...of001, scene: 'con' } });
  expect(planItems(by('{scene}'), [device])).toMatchObject({
    items: [{ place: 'Edit/T3.mov' }],
    remarks: [{ why: 'it keeps its name, for by the pattern con is a device name on some systems' }],
  });
});

test('a pattern of names says what is wrong with it; a form of an earlier version has none', () => {
  const faultOf = (namePattern: string) =>
    FormShape.safeParse(form({ names: 'pattern', namePattern })).error?.issues[0]!.message;
  expect(faultOf('{job}_{name}')).toBeUndefined();
  expect(faultOf(' ')).toBe('give names, such as {job}_{name}');
  expect(faultOf('{card}/{name}')).toContain('cannot hold a /');
  expect(faultOf('{lens}')).toBe(
    '{lens} is not known: use {name} {original} {job} {day} {date} {camera} {card} {reel} {scene} {take}',
  );
  expect(faultOf('{name')).toBe('a brace is not closed');
  const { namePattern, ...earlier } = READY_FORMS[0]!;
  expect(FormShape.parse(earlier).namePattern).toBe(namePattern);
});

test('what was sent keeps its place, whatever it is called by now; a new one goes around it', () => {
  const [a, b] = [file('original', 'T1.MP4'), file('original', 'T1.MP4')];
  const f = form({ media: ['original'], folders: 'one' });
  const before = new Map([[sentKey(b), 'Originals/T1.MP4']]);
  expect(places(f, [clip('T1', [a]), clip('T1', [{ ...b, name: 'Renamed.MP4' }])], before)).toEqual([
    'Originals/A001/T1.MP4',
    'Originals/T1.MP4',
  ]);
});

test('what cannot be had is said and left out; a remark on what the form does not ask for is not', () => {
  const gone = clip('T1', [file('original', 'T1.MP4', { away: 'it is on Drive, which is not connected' })], {
    notes: [{ what: 'edit', why: 'it has no proxy' }],
  });
  const there = clip('T2', [file('original', 'T2.MP4')]);
  const { items, remarks } = planItems(form({ media: ['original'] }), [gone, there]);
  expect(items.map((i) => i.place)).toEqual(['Originals/A001/T2.MP4']);
  expect(remarks).toEqual([
    { clip: gone.clip, what: 'original', why: 'it is on Drive, which is not connected' },
  ]);
  expect(planItems(form({ media: ['edit'] }), [gone]).remarks).toEqual([
    { clip: gone.clip, what: 'edit', why: 'it has no proxy' },
  ]);
});

test('one file of two clips goes once; as two kinds of file it goes as both', () => {
  const sound = file('sound', 'S1.wav');
  expect(places(form({ media: ['sound'] }), [clip('T1', [sound]), clip('T2', [sound])])).toEqual([
    'Sound/A001/S1.wav',
  ]);
  const both = { ...sound, what: 'original' as const };
  expect(places(form({ media: ['sound', 'original'] }), [clip('T1', [sound, both])])).toEqual([
    'Sound/A001/S1.wav',
    'Originals/A001/S1.wav',
  ]);
});

test('against what was sent: new, changed, as it was, and no more part of it', () => {
  const files = [1, 2, 3, 4].map((n) => file('original', `T${n}.MP4`));
  const { items } = planItems(
    form({ media: ['original'] }),
    files.map((f) => clip(f.name, [f])),
  );
  const sent = (i: number, of: Partial<Sent> = {}): Sent => ({
    ...{ file: files[i]!.file, what: 'original', place: items[i]!.place, size: 10, modified: 1 },
    ...{ image: null, state: 'verified', ...of },
  });
  const left = sent(0, { file: 'gone', place: 'Originals/A001/T9.MP4' });
  const compared = comparePlans(items, [
    sent(0),
    sent(1, { modified: 2 }),
    // It never arrived.
    sent(2, { state: 'failed' }),
    left,
  ]);
  expect(compared.same.map((i) => i.place)).toEqual(['Originals/A001/T1.MP4']);
  expect(compared.changed.map((i) => i.place)).toEqual(['Originals/A001/T2.MP4']);
  expect(compared.fresh.map((i) => i.place)).toEqual(['Originals/A001/T3.MP4', 'Originals/A001/T4.MP4']);
  expect(compared.left).toEqual([left]);
});

/** Frames of a clip, as images to be made. */
const images = (id: string, frames: readonly number[], of = 'as it was'): Packable[] =>
  frames.map((frame) => file('used', 'an image', { file: id, image: { frame, of } }));
const used = (folders: Form['folders'] = 'one') => form({ media: ['used'], folders, usedAs: 'dpx10' });

test('folders by a pattern of one’s own stand below the kind of file; nothing leads out of the package', () => {
  const by = (pattern: string) => form({ media: ['original'], folders: 'own', pattern });
  const of = (pattern: string, words = of001) =>
    places(by(pattern), [clip('T1', [file('original', 'T1.MP4')], { words })])[0];
  expect(of('{date}/{camera}')).toBe('Originals/2026-05-05/A/T1.MP4');
  expect(of('{job} day {day}/{card}/raw')).toBe('Originals/SLW day 1/A001/raw/T1.MP4');
  expect(of('{date}', { ...of001, date: null as never })).toBe('Originals/no date/T1.MP4');
  expect(of('/{camera}//', { ...of001, camera: 'a/b:c' })).toBe('Originals/a_b_c/T1.MP4');
  // Two files of one name in one folder go apart, as elsewhere.
  const twice = [clip('T1', [file('original', 'T1.MP4')]), clip('T1', [file('original', 'T1.MP4')])];
  expect(places(by('all'), twice)).toEqual(['Originals/all/T1.MP4', 'Originals/all/A001/T1.MP4']);
  const faultOf = (pattern: string) => FormShape.safeParse(by(pattern)).error?.issues[0]!.message;
  expect(faultOf('{camera}/{card}')).toBeUndefined();
  expect(faultOf('')).toBe('give folders, such as {camera}/{card}');
  expect(faultOf('{camera}/..')).toBe('a folder cannot be . or ..');
  expect(faultOf('{lens}')).toContain('{lens} is not known: use {job} {day}');
  // A pattern that is not used may be anything.
  expect(FormShape.safeParse(form({ pattern: '{lens}' })).success).toBe(true);
});

test('images of a clip are a row in a folder that no other clip has, numbered by its frames from 1', () => {
  expect(places(used(), [clip('T1', images('a', [0, 1, 99]))])).toEqual([
    'Used frames/T1/T1.0000001.dpx',
    'Used frames/T1/T1.0000002.dpx',
    'Used frames/T1/T1.0000100.dpx',
  ]);
  // Other frames of a clip of the same name would fill its gaps.
  const twice = [
    clip('T1', images('a', [5])),
    clip('t1', images('b', [6])),
    clip('T1', images('c', [7]), { words: { ...of001, card: 'A002' } }),
  ];
  expect(places(used(), twice)).toEqual([
    'Used frames/T1/T1.0000006.dpx',
    'Used frames/A001/t1/t1.0000007.dpx',
    'Used frames/A002/T1/T1.0000008.dpx',
  ]);
  expect(places(used('card'), twice)).toEqual([
    'Used frames/A001/T1/T1.0000006.dpx',
    'Used frames/A001/2/t1/t1.0000007.dpx',
    'Used frames/A002/T1/T1.0000008.dpx',
  ]);
});

test('a row of images is called by the pattern of names, for a clip once', () => {
  const f = { ...used(), names: 'pattern' as const, namePattern: '{job}_{name}' };
  expect(places(f, [clip('T1', images('a', [0, 1]))])).toEqual([
    'Used frames/SLW_T1/SLW_T1.0000001.dpx',
    'Used frames/SLW_T1/SLW_T1.0000002.dpx',
  ]);
  const two = [clip('T1', images('a', [0, 1])), clip('T2', images('b', [0]))];
  const { items, remarks } = planItems({ ...f, namePattern: '{job}' }, two);
  expect(items.at(-1)!.place).toBe('Used frames/A001/SLW/SLW.0000001.dpx');
  expect(remarks).toMatchObject([{ clip: two[1]!.clip, what: 'used' }]);
});

test('a row of images that was sent keeps its name and folder, and new frames go to it; no other clip does', () => {
  const first = planItems(used(), [clip('T1', images('a', [4, 5]))]).items;
  const before = new Map(first.map((i) => [sentKey(i), i.place]));
  const now = [clip('T1', images('b', [4])), clip('Wheel 1', images('a', [3, 4, 5, 6]))];
  const { items } = planItems(used(), now, before);
  expect(items.map((i) => i.place)).toEqual([
    'Used frames/A001/T1/T1.0000005.dpx',
    ...[4, 5, 6, 7].map((n) => `Used frames/T1/T1.000000${n}.dpx`),
  ]);
  const sent = first.map((i): Sent => ({ ...i, size: 1, state: 'verified' }));
  const compared = comparePlans(items, sent);
  // How many bytes it has was known when it was made.
  expect(compared.same.map((i) => i.image!.frame)).toEqual([4, 5]);
  expect(compared.fresh).toHaveLength(3);
  // Made from something else, or otherwise: from another timecode, in other bits.
  const other = planItems(used(), [clip('T1', images('a', [4, 5], 'otherwise'))], before).items;
  expect(comparePlans(other, sent).changed).toHaveLength(2);
});

test('a form of an earlier version says nothing of images, and has no pattern of folders', () => {
  const { usedAs, pattern, ...earlier } = READY_FORMS[0]!;
  expect([usedAs, pattern]).toEqual(['files', 'Day {day}/{camera}/{card}']);
  expect(FormShape.parse(earlier)).toEqual(READY_FORMS[0]);
  expect([imagesIn(earlier as Form), imagesIn(used())]).toEqual([null, 'dpx10']);
});

test('a form asks for something, and for nothing twice', () => {
  expect(FormShape.safeParse(form({ media: [], lists: [] })).success).toBe(false);
  expect(FormShape.safeParse(form({ media: ['edit', 'edit'] })).success).toBe(false);
  expect(FormShape.safeParse(form({ name: '  ' })).success).toBe(false);
  for (const ready of READY_FORMS) expect(FormShape.parse(ready)).toEqual(ready);
});
