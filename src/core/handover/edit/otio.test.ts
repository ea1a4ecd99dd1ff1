import { describe, expect, test } from '@jest/globals';
import { rate } from '../../platform/timecode/rate';
import { Edit, type EditEvent, NotAnEdit } from './edit';
import { fileIn, readOtio, writeOtio } from './otio';

const time = (value: number, r = 25) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate: r });
const range = (from: number, frames: number, r = 25) => ({
  OTIO_SCHEMA: 'TimeRange.1',
  start_time: time(from, r),
  duration: time(frames, r),
});
const clip = (name: string, from: number, frames: number, more: object = {}, r = 25) => ({
  OTIO_SCHEMA: 'Clip.2',
  name,
  source_range: range(from, frames, r),
  media_references: {
    DEFAULT_MEDIA: {
      OTIO_SCHEMA: 'ExternalReference.1',
      target_url: `file:///media/M%C3%BChle/${name}.mp4`,
      available_range: range(from - 10, 200, r),
    },
  },
  active_media_reference_key: 'DEFAULT_MEDIA',
  ...more,
});
const warp = (scalar: number) => ({ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar: scalar });
const gap = (frames: number) => ({ OTIO_SCHEMA: 'Gap.1', source_range: range(0, frames) });
const track = (children: object[], more: object = {}) => ({
  OTIO_SCHEMA: 'Track.1',
  name: 'V1',
  kind: 'Video',
  children,
  ...more,
});
const stack = (children: object[], more: object = {}) => ({ OTIO_SCHEMA: 'Stack.1', children, ...more });
const timeline = (...tracks: object[]) => ({
  OTIO_SCHEMA: 'Timeline.1',
  name: 'Tide',
  tracks: stack(tracks),
});
const read = (o: object): Edit => readOtio(JSON.stringify(o));
const events = (o: object) => read(o).tracks.flatMap((t) => t.events);
const placed = (o: object) => events(o).map((e) => [e.name, e.from, e.to, e.source.from, e.source.frames]);

describe('a timeline', () => {
  test('clips after each other, gaps between them, files by their addresses', () => {
    const edit = read({
      ...timeline(track([clip('A', 900, 50), gap(25), clip('B', 0, 10)])),
      global_start_time: time(90_000),
    });
    expect(edit).toMatchObject({ name: 'Tide', rate: rate(25), start: 90_000, faults: [] });
    expect(edit.tracks[0]!.events).toMatchObject([
      {
        label: '1',
        from: 0,
        to: 50,
        name: 'A',
        file: 'A.mp4',
        source: { from: 900, frames: 50, drop: null },
        speed: 1,
      },
      { label: '2', from: 75, to: 85, name: 'B' },
    ]);
  });

  test('of the first form, and where a clip uses all of its media', () => {
    const old = {
      OTIO_SCHEMA: 'Clip.1',
      name: 'A',
      media_reference: {
        OTIO_SCHEMA: 'ExternalReference.1',
        target_url: 'C:\\cards\\A.MOV',
        available_range: range(500, 40),
      },
    };
    expect(events(timeline(track([old])))).toMatchObject([
      { file: 'A.MOV', from: 0, to: 40, source: { from: 500, frames: 40 } },
    ]);
  });

  test('speeds, still frames, transitions, reels in metadata', () => {
    const warp = (time_scalar: number) => ({ effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1', time_scalar }] });
    const all = events(
      timeline(
        track([
          clip('A', 900, 50, warp(2)),
          {
            OTIO_SCHEMA: 'Transition.1',
            transition_type: 'SMPTE_Dissolve',
            in_offset: time(6),
            out_offset: time(6),
          },
          clip('B', 900, 50, { ...warp(-1), metadata: { some_program: { Reel_Name: 'B001' } } }),
          clip('C', 900, 50, { effects: [{ OTIO_SCHEMA: 'FreezeFrame.1', time_scalar: 0 }] }),
        ]),
      ),
    );
    expect(all.map((e) => [e.name, e.speed, e.source.frames, e.transition, e.reel])).toEqual([
      ['A', 2, 100, null, null],
      ['B', -1, 50, { kind: 'dissolve', frames: 12 }, 'B001'],
      ['C', 0, 1, null, null],
    ]);
  });

  test('nested ones are seen through what is left of them', () => {
    const inner = track([clip('A', 1000, 100), clip('B', 2000, 100)], { source_range: range(50, 100) });
    expect(placed(timeline(track([gap(10), inner, clip('C', 0, 5)])))).toEqual([
      ['A', 10, 60, 1050, 50],
      ['B', 60, 110, 2000, 50],
      ['C', 110, 115, 0, 5],
    ]);
    // Of a stack each layer lies over the others: in tracks of their own.
    const layers = stack([track([clip('A', 0, 20)]), track([clip('B', 0, 30)])], {
      source_range: range(5, 10),
    });
    const edit = read(timeline(track([layers, clip('C', 0, 5)])));
    expect(
      edit.tracks.map((t) => [t.name, t.events.map((e) => [e.name, e.from, e.to, e.source.from])]),
    ).toEqual([
      [
        'V1',
        [
          ['A', 0, 10, 5],
          ['C', 10, 15, 0],
        ],
      ],
      ['V1, 2', [['B', 0, 10, 5]]],
    ]);
  });

  test('of several rates: the edit counts at that of its own time, else at the most frequent', () => {
    const mixed = timeline(track([clip('A', 0, 25), clip('B', 100, 100, {}, 50), clip('C', 0, 25)]));
    expect(read(mixed).rate).toEqual(rate(25));
    expect(placed(mixed)).toEqual([
      ['A', 0, 25, 0, 25],
      ['B', 25, 75, 100, 100],
      ['C', 75, 100, 0, 25],
    ]);
    const ntsc = { ...mixed, global_start_time: time(0, 23.976023976023978) };
    expect(read(ntsc).rate).toEqual(rate(24000, 1001));
  });

  test('the first timeline of a collection; a stack or a track alone', () => {
    const one = track([clip('A', 0, 5)]);
    expect(
      placed({ OTIO_SCHEMA: 'SerializableCollection.1', children: [clip('x', 0, 1), timeline(one)] }),
    ).toHaveLength(1);
    expect(placed(stack([one]))).toHaveLength(1);
    expect(placed(one)).toHaveLength(1);
  });
});

describe('what is wrong is said', () => {
  test.each([
    ['{"OTIO_SCHEMA": "Timeline.1", "tra', 'it is no JSON'],
    ['[]', 'it has no OTIO_SCHEMA'],
    ['{"a": 1}', 'it has no OTIO_SCHEMA'],
    ['{"OTIO_SCHEMA": "Clip.2"}', 'it holds no timeline, but “Clip”'],
    ['{"OTIO_SCHEMA": "Timeline.1"}', 'its timeline has no tracks'],
    [JSON.stringify(timeline()), 'its timeline has no tracks'],
  ])('%s', (text, why) => {
    expect(() => readOtio(text)).toThrow(NotAnEdit);
    expect(() => readOtio(text)).toThrow(why);
  });

  test('clips without frames, below zero, at no rate; the rest is read', () => {
    const edit = read(
      timeline(
        track([
          { OTIO_SCHEMA: 'Clip.2', name: 'bare' },
          clip('short', 0, -5),
          clip('before', -20, 10),
          { ...clip('odd', 10, 10), source_range: { start_time: time(10, 1e9), duration: time(10) } },
          clip('good', 100, 10),
          { OTIO_SCHEMA: 'Clip.2', media_reference: { target_url: 'a.mp4' } },
        ]),
      ),
    );
    expect(edit.tracks[0]!.events.map((e) => e.name)).toEqual(['odd', 'good']);
    expect(edit.faults).toEqual([
      '“bare” says neither which frames of it are used nor how many it has; it was left out.',
      '“short” has a length below zero; it was left out.',
      '“before” is used from before its first frame; it was left out.',
      '“odd” counts at no rate that is one: 1000000000. The edit’s own was taken.',
      '“A clip” says neither which frames of it are used nor how many it has; it was left out.',
    ]);
  });

  test('numbers that no clip has', () => {
    const edit = read({
      ...timeline(
        track([
          clip('fast', 0, 10, { effects: [warp(1e12)] }),
          clip('faster', 0, 10, { effects: [warp(1e200), warp(1e200)] }),
          clip('good', 100, 10),
          { ...gap(1e200), name: 'gap' },
          clip('late', 100, 10),
        ]),
        // What its media holds is not taken for what is used of it.
        track([clip('far', 1e300, 10), clip('behind', 0, 10)]),
        track([clip('slow', 0, 10, {}, 1e-300), clip('after', 0, 10)]),
        track([clip('whole', 5, 10)], { source_range: range(0, 1e300) }),
        track([
          clip('one', 0, 10),
          { OTIO_SCHEMA: 'Transition.1', in_offset: time(1e300), out_offset: time(3) },
          clip('two', 0, 10),
        ]),
      ),
      global_start_time: time(1e250),
    });
    expect(edit.start).toBe(0);
    expect(edit.tracks.flatMap((t) => t.events.map((e) => e.name))).toEqual(['good', 'whole', 'one', 'two']);
    expect(edit.tracks.at(-1)!.events[1]!.transition).toEqual({ kind: 'dissolve', frames: 3 });
    expect(new Set(edit.faults)).toEqual(
      new Set([
        ...['fast', 'faster', 'gap', 'late', 'far', 'behind', 'slow', 'after'].map(
          (n) => `“${n}” has numbers that no clip has; it was left out.`,
        ),
        '“V1” has a range with numbers that no edit has; all of it was taken.',
      ]),
    );
    expect(Edit.safeParse(edit).success).toBe(true);
  });

  test('nested without end, and names that are properties of every object', () => {
    let deep: object = track([clip('A', 0, 5)]);
    for (let i = 0; i < 60; i++) deep = stack([deep]);
    expect(() => read(timeline(deep))).toThrow('nested deeper than 40 levels');
    const odd = { ...clip('A', 0, 5), active_media_reference_key: '__proto__' };
    expect(events(timeline(track([odd])))).toMatchObject([{ file: 'A.mp4' }]);
  });
});

test('the file at the end of an address', () => {
  expect(fileIn('file:///a/b%20c/d%231.mov?x#y')).toBe('d#1.mov');
  expect(fileIn('/a/b/100%.mov')).toBe('100%.mov');
  expect(fileIn('file:///a/100%.mov')).toBe('100%.mov');
  expect(fileIn('D:\\a\\b#1.mov')).toBe('b#1.mov');
  expect(fileIn('Edit/b%20c.mov')).toBe('b c.mov');
  expect(fileIn('b%20c.mov')).toBe('b c.mov');
  expect(fileIn('/a/b%20c.mov')).toBe('b%20c.mov');
  expect(fileIn('a\\b%20c.mov')).toBe('b%20c.mov');
  expect(fileIn('file:///a/')).toBeNull();
});

test('what is written is read again as it was; other files, marks and facts stand beside each clip', () => {
  const event = (label: string, from: number, to: number, extra: Partial<EditEvent> = {}): EditEvent => ({
    ...{ label, from, to, name: `C${label}`, file: null, reel: 'A001', speed: 1, transition: null },
    source: { from: 90_000 + from, frames: to - from, rate: rate(25), drop: null },
    ...extra,
  });
  const edit: Edit = {
    ...{ name: 'String-out', rate: rate(25), start: 90_000, drop: false, faults: [] },
    tracks: [
      {
        ...{ name: 'V1', kind: 'video' },
        events: [
          event('1', 0, 50),
          event('2', 50, 60, {
            speed: 2,
            source: { from: 5, frames: 20, rate: rate(25), drop: null },
            transition: { kind: 'dissolve', frames: 6 },
          }),
          event('3', 80, 90, { source: { from: 100, frames: 20, rate: rate(50), drop: null } }),
        ],
      },
      {
        name: 'A1',
        kind: 'audio',
        events: [
          event('1', 10, 20, { speed: 0, source: { from: 7, frames: 1, rate: rate(25), drop: null } }),
        ],
      },
    ],
  };
  expect(readOtio(writeOtio(edit, () => null))).toEqual(edit);
  const media = (name: string) => ({
    url: `file:///m/${encodeURIComponent(name)}`,
    name,
    from: 0,
    frames: 100,
    rate: rate(25),
  });
  const text = writeOtio(edit, (e) => ({
    media: [
      ['DEFAULT_MEDIA', media(`${e.name} é.mp4`)],
      ['original', media(`${e.name}.MOV`)],
    ],
    marks: [{ name: 'wheel', note: 'good', from: 3, frames: 2, rate: rate(25), colour: 'GREEN' }],
    facts: { card: 'A001' },
  }));
  expect(readOtio(text).tracks[0]!.events[0]).toEqual({ ...edit.tracks[0]!.events[0], file: 'C1 é.mp4' });
  const first = (JSON.parse(text) as { tracks: { children: { children: unknown[] }[] } }).tracks.children[0]!
    .children[0];
  expect(first).toMatchObject({
    media_references: { original: { OTIO_SCHEMA: 'ExternalReference.1', name: 'C1.MOV' } },
    markers: [{ OTIO_SCHEMA: 'Marker.2', name: 'wheel', marked_range: { start_time: { value: 3 } } }],
    metadata: { sort_shelf: { reel: 'A001', card: 'A001' } },
  });
});
