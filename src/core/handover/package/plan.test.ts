import { expect, test } from '@jest/globals';
import { type Form, Form as FormShape, imagesIn, READY_FORMS } from './form';
import { comparePlans, type Packable, type PackClip, placeKey, planItems, type Sent, sentKey } from './plan';

const form = (of: Partial<Form> = {}): Form => ({ ...READY_FORMS[0]!, ...of });
let count = 0;
const file = (what: Packable['what'], name: string, of: Partial<Packable> = {}): Packable => ({
  ...{ file: `f${++count}`, what, name, root: 'shelf', path: `A/${name}`, size: 10, modified: 1 },
  ...{ onCard: null, away: null, image: null, ...of },
});
const of001 = { job: 'SLW', day: 1, date: '2026-05-05', camera: 'A', card: 'A001' };
const clip = (stem: string, files: Packable[], of: Partial<PackClip> = {}): PackClip => ({
  ...{ clip: `c-${stem}-${++count}`, stem, words: of001, files, notes: [], ...of },
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
