import { describe, expect, test } from '@jest/globals';
import { shownPath } from '../../platform/names';
import { randomFrom } from '../../platform/random';
import { rate, type Rate } from '../../platform/timecode/rate';
import { formatTimecode, parseTimecode, timecode } from '../../platform/timecode/timecode';
import type { Held } from '../held';
import type { Edit, EditEvent } from './edit';
import { readEdl, writeEdl } from './edl';
import { corrected, cutAlike, type Kept, lay, layEvent, type LaidVerdict, Shelved } from './lay';
import { readOtio, writeOtio } from './otio';

const NTSC = rate(30000, 1001);
const held = (name: string, start: string | null, extra: Partial<Held> = {}, r: Rate = rate(25)): Held => ({
  ...{ what: 'original', name: shownPath(name), reel: null, rate: r, frames: 100, channels: 2, sound: false },
  start: start === null ? null : parseTimecode(start, r),
  ...extra,
});
const frameOf = (text: string, r: Rate = rate(25)) => parseTimecode(text, r)!.frame;
const event = (
  extra: Partial<EditEvent>,
  from: string,
  frames = 10,
  r: Rate = rate(25),
  drop: boolean | null = false,
): EditEvent => ({
  ...{ label: '001', from: 0, to: frames, name: null, file: null, reel: null, speed: 1, transition: null },
  source: { from: frameOf(from, r), frames, rate: r, drop },
  ...extra,
});
const editOf = (events: EditEvent[], r = rate(25)): Edit => ({
  ...{ name: 'Edit', rate: r, start: 0, drop: false, faults: [] },
  tracks: [{ name: 'V1', kind: 'video', events }],
});

const wheel: Kept = {
  clip: 'wheel',
  files: [
    held('A001_C001.MOV', '10:00:00:00', { reel: 'A001' }),
    held('A001_C001.mp4', '10:00:00:00', { what: 'proxy' }),
  ],
};
const sky: Kept = {
  clip: 'sky',
  files: [held('B001.MOV', '14:22:05:00'), held('B001_edit.mov', '00:00:00:00', { what: 'rewrap' })],
};
const fast: Kept = { clip: 'fast', files: [held('F001.MP4', '16:00:00:00', { frames: 200 }, rate(50))] };
const drone: Kept = { clip: 'drone', files: [held('D001.MP4', '01:00:00;00', { frames: 300 }, NTSC)] };
const shelved = new Shelved([wheel, sky, fast, drone]);
const laid = (e: EditEvent) => layEvent(e, shelved);

describe('an event finds its clip', () => {
  test('by the file, by the name with or without extension, by the reel, by timecode alone', () => {
    const found = { verdict: 'found', clip: 'wheel', used: { from: 5, to: 15 }, shifted: null };
    expect(laid(event({ file: 'A001_C001.mp4' }, '10:00:00:05'))).toMatchObject({ ...found, by: 'file' });
    expect(laid(event({ name: 'A001_C001' }, '10:00:00:05'))).toMatchObject({ ...found, by: 'name' });
    expect(laid(event({ file: 'gone.mov', name: 'A001_C001.MOV' }, '10:00:00:05'))).toMatchObject({
      ...found,
      by: 'name',
    });
    expect(laid(event({ name: 'something', reel: 'A001' }, '10:00:00:05'))).toMatchObject({
      ...found,
      by: 'reel',
    });
    expect(laid(event({}, '10:00:00:05'))).toMatchObject({ ...found, by: 'timecode' });
  });

  test('what it was cut from is worked out by where its numbers lie', () => {
    expect(laid(event({ file: 'B001_edit.mov' }, '00:00:01:00'))).toMatchObject({
      ...{ verdict: 'found', clip: 'sky', used: { from: 25, to: 35 } },
      shifted: { file: 'B001_edit.mov', frames: frameOf('14:22:05:00') },
      why: 'cut from the rewrap B001_edit.mov, which starts at 00:00:00:00, the original at 14:22:05:00',
    });
    // Named by the clip only.
    expect(laid(event({ name: 'B001' }, '00:00:01:00'))).toMatchObject({
      clip: 'sky',
      shifted: { file: 'B001_edit.mov' },
    });
    expect(laid(event({ name: 'B001' }, '14:22:06:00'))).toMatchObject({ clip: 'sky', shifted: null });
  });

  test('a file that lacks frames begins where its timecode says; where that tells nothing, neither does anybody', () => {
    const low = (name: string, start: string | null, frames: number): Held =>
      held(name, start, { what: 'cameraProxy', frames });
    const late = new Shelved([
      { clip: 'late', files: [held('L001.MOV', '10:00:00:00'), low('L001.mp4', '10:00:01:00', 75)] },
      { clip: 'short', files: [held('S001.MOV', '11:00:00:00'), low('S001.mp4', '11:00:00:00', 99)] },
      { clip: 'lost', files: [held('T001.MOV', '12:00:00:00'), low('T001.mp4', null, 99)] },
      { clip: 'bare', files: [held('Y001.MOV', null), low('Y001.mp4', null, 99)] },
      { clip: 'reset', files: [held('U001.MOV', '13:00:00:00'), low('U001.mp4', null, 100)] },
      { clip: 'long', files: [held('V001.MOV', '14:00:00:00'), low('V001.mp4', '13:59:59:00', 125)] },
      {
        clip: 'midnight',
        files: [held('W001.MOV', '23:59:59:00'), low('W001.mp4', '00:00:01:00', 25)],
      },
      {
        clip: 'half',
        files: [
          held('X001.MOV', '15:00:00:00', { frames: 200 }, rate(50)),
          low('X001.mp4', '15:00:01:00', 75),
        ],
      },
    ]);
    const of = (file: string, from: string) => layEvent(event({ file }, from), late);
    expect(of('L001.mp4', '10:00:01:05')).toMatchObject({
      ...{ verdict: 'found', clip: 'late', used: { from: 30, to: 40 }, shifted: null },
    });
    expect(of('S001.mp4', '11:00:00:05')).toMatchObject({ verdict: 'found', used: { from: 5, to: 15 } });
    expect(of('T001.mp4', '00:00:00:05')).toEqual({
      ...{ verdict: 'unsure', clip: 'lost', by: 'file', used: null, before: 0, behind: 0, shifted: null },
      why: 'the camera’s proxy T001.mp4 has 99 frames, the original 100 frames, and by their timecodes it is no part of it: which frames these are cannot be told, but from another file of the clip it could',
    });
    expect(of('Y001.mp4', '00:00:00:05')).toMatchObject({
      ...{ verdict: 'found', clip: 'bare', used: { from: 5, to: 15 } },
      why: 'the camera’s proxy Y001.mp4 has 99 frames, the original 100 frames: both are taken to begin together',
    });
    expect(of('S001.mp4', '11:00:00:05').why).toBe('');
    expect(of('U001.mp4', '00:00:00:05')).toMatchObject({
      ...{ verdict: 'found', used: { from: 5, to: 15 }, shifted: { file: 'U001.mp4' } },
    });
    expect(of('V001.mp4', '14:00:00:05')).toMatchObject({ verdict: 'unsure', clip: 'long' });
    expect(of('W001.mp4', '00:00:01:05')).toMatchObject({ verdict: 'found', used: { from: 55, to: 65 } });
    // It counts half of the original's frames.
    expect(of('X001.mp4', '15:00:01:05')).toMatchObject({ verdict: 'rate', used: { from: 60, to: 80 } });
    // Nothing is changed of what is not known, and nothing is made for it.
    const edit = editOf([
      event({ file: 'T001.mp4' }, '00:00:00:05'),
      event({ file: 'L001.mp4' }, '10:00:01:05'),
    ]);
    const found = lay(edit, late);
    expect(corrected(edit, found, late)).toMatchObject({
      changed: 1,
      edit: {
        tracks: [
          {
            events: [
              { file: 'T001.mp4', source: { from: 5 } },
              { file: 'L001.MOV', source: { from: frameOf('10:00:01:05') } },
            ],
          },
        ],
      },
    });
    expect(cutAlike(found, late)).toEqual([]);
  });

  test('outside its clip, by how many frames before and behind', () => {
    expect(laid(event({ file: 'A001_C001.MOV' }, '09:59:59:20', 30))).toMatchObject({
      ...{ verdict: 'outside', clip: 'wheel', before: 5, behind: 0 },
      why: 'it uses 5 frames before its first: 09:59:59:20 to 10:00:01:00',
    });
    expect(laid(event({ name: 'A001_C001' }, '10:00:03:20', 10))).toMatchObject({
      verdict: 'outside',
      before: 0,
      behind: 5,
    });
    expect(laid(event({ name: 'A001_C001' }, '12:00:00:00', 10))).toMatchObject({
      verdict: 'outside',
      behind: 10,
    });
  });

  test('at another rate: frames of the clip by the numbers, where they lie on them', () => {
    expect(laid(event({ name: 'F001' }, '16:00:01:00', 10))).toMatchObject({
      ...{ verdict: 'rate', clip: 'fast', used: { from: 50, to: 70 } },
      why: 'the clip runs at 50, the edit counts it at 25',
    });
    expect(laid(event({ name: 'F001' }, '16:00:01:00', 10, rate(50)))).toMatchObject({
      verdict: 'found',
      used: { from: 50, to: 60 },
    });
    expect(laid(event({}, '16:00:01:00', 10))).toMatchObject({
      verdict: 'rate',
      clip: 'fast',
      by: 'timecode',
    });
  });

  test('drop-frame flags that are wrong do not shift it: the number counts; a count of frames is taken as it is', () => {
    const at = { from: 30, to: 40 };
    expect(laid(event({ name: 'D001' }, '01:00:01:00', 10, NTSC, false))).toMatchObject({
      verdict: 'found',
      used: at,
    });
    expect(laid({ ...event({ name: 'D001' }, '01:00:01;00', 10, NTSC, true) })).toMatchObject({
      verdict: 'found',
      used: at,
    });
    const counted = event({ name: 'D001' }, '01:00:01;00', 10, NTSC, null);
    expect(laid(counted)).toMatchObject({ verdict: 'found', used: at });
  });

  test('names that come back: the reel tells them apart where it does', () => {
    const of = (id: string, reel: string | null) => ({
      clip: id,
      files: [held('T0001.MP4', '00:00:00:00', { reel })],
    });
    const days = new Shelved([of('one', 'B001'), of('two', 'B002'), of('three', null)]);
    const named = (reel: string | null) => layEvent(event({ name: 'T0001', reel }, '00:00:01:00'), days);
    expect(named('B002')).toMatchObject({ verdict: 'found', clip: 'two' });
    expect(named('B009')).toMatchObject({ verdict: 'several' });
    expect(named(null)).toMatchObject({ verdict: 'several' });
  });

  test('of a file whose length is not known the name alone is compared, and that is said', () => {
    const bare = new Shelved([
      { clip: 'still', files: [held('P001.JPG', null, { rate: null, frames: null })] },
    ]);
    expect(layEvent(event({ file: 'P001.JPG' }, '00:00:01:00'), bare)).toMatchObject({
      ...{ verdict: 'found', clip: 'still', by: 'file', used: null },
      why: 'only its name was compared: its timecode or length is not known',
    });
    expect(layEvent(event({ file: 'P002.JPG' }, '00:00:01:00'), bare)).toMatchObject({ verdict: 'missing' });
  });

  test('sound that ran at the same time is found for tracks of sound only', () => {
    const sound: Kept = {
      clip: 'sound',
      files: [held('S.WAV', '09:59:00:00', { frames: 9000, sound: true })],
    };
    const both = new Shelved([wheel, sound]);
    expect(layEvent(event({}, '10:00:00:05'), both)).toMatchObject({ verdict: 'found', clip: 'wheel' });
    expect(layEvent(event({}, '10:00:00:05'), both, 'audio')).toMatchObject({ verdict: 'several' });
    expect(layEvent(event({}, '09:59:30:00'), both, 'audio')).toMatchObject({
      verdict: 'found',
      clip: 'sound',
    });
  });

  test('by a name it had before it was renamed', () => {
    const renamed = new Shelved([{ ...wheel, formerly: ['C0007.MOV', 'C0007_px.mp4'] }, sky]);
    expect(layEvent(event({ file: 'C0007_px.mp4' }, '10:00:00:05'), renamed)).toMatchObject({
      verdict: 'found',
      clip: 'wheel',
      by: 'file',
    });
    expect(layEvent(event({ name: 'C0007' }, '10:00:03:20'), renamed)).toMatchObject({
      verdict: 'outside',
      clip: 'wheel',
      behind: 5,
    });
    expect(layEvent(event({ file: 'A001_C001.MOV' }, '10:00:00:05'), renamed)).toMatchObject({
      verdict: 'found',
      clip: 'wheel',
    });
  });

  test('several, and none', () => {
    const twice = new Shelved([
      wheel,
      { clip: 'other', files: [held('A001_C001.MOV', '11:00:00:00')] },
      { clip: 'third', files: [held('X.MOV', '10:00:00:00')] },
    ]);
    expect(layEvent(event({ name: 'A001_C001' }, '11:00:00:10'), twice)).toMatchObject({
      verdict: 'found',
      clip: 'other',
    });
    expect(layEvent(event({ name: 'A001_C001' }, '13:00:00:10'), twice)).toMatchObject({
      verdict: 'several',
      why: '2 clips fit: A001_C001.MOV, A001_C001.MOV',
    });
    expect(layEvent(event({}, '10:00:00:10'), twice)).toMatchObject({ verdict: 'several', by: 'timecode' });
    expect(laid(event({ name: 'nothing' }, '20:00:00:00'))).toEqual({
      ...{ verdict: 'missing', clip: null, by: null, used: null, before: 0, behind: 0, shifted: null },
      why: 'no clip of the job is named nothing, and none holds its timecode 20:00:00:00 to 20:00:00:10',
    });
    // Names that differ in the form of Unicode are the same; in capitals they are not.
    const forms = new Shelved([{ clip: 'm', files: [held('M\u00fchle.mov', '10:00:00:00')] }]);
    expect(layEvent(event({ name: 'Mu\u0308hle' }, '10:00:00:00'), forms)).toMatchObject({
      verdict: 'found',
    });
    expect(layEvent(event({ name: 'mühle' }, '20:00:00:00'), forms)).toMatchObject({ verdict: 'missing' });
  });

  test('past midnight', () => {
    const late = new Shelved([{ clip: 'night', files: [held('N.mov', '23:59:58:00')] }]);
    expect(layEvent(event({ name: 'N' }, '00:00:00:05'), late)).toMatchObject({
      verdict: 'found',
      used: { from: 55, to: 65 },
    });
    expect(layEvent(event({}, '00:00:00:05'), late)).toMatchObject({ verdict: 'found', clip: 'night' });
  });
});

test('the corrected edit counts in the originals’ timecode, and what is not known stays as it came', () => {
  const edit = editOf([
    event({ file: 'B001_edit.mov', name: 'B001_edit' }, '00:00:01:00'),
    event({ name: 'nothing' }, '20:00:00:00'),
    event({ name: 'A001_C001.mp4' }, '10:00:00:00'),
  ]);
  const { edit: right, changed } = corrected(edit, lay(edit, shelved), shelved);
  expect(changed).toBe(2);
  const [one, two, three] = right.tracks[0]!.events;
  expect(one).toMatchObject({
    file: 'B001.MOV',
    name: 'B001',
    source: { from: frameOf('14:22:06:00'), frames: 10 },
  });
  expect(two).toEqual(edit.tracks[0]!.events[1]);
  expect(three).toMatchObject({
    file: 'A001_C001.MOV',
    reel: 'A001',
    source: { from: frameOf('10:00:00:00') },
  });
  expect(lay(right, shelved)[0]!.map((l) => [l.verdict, l.shifted])).toEqual([
    ['found', null],
    ['missing', null],
    ['found', null],
  ]);
});

interface Planted {
  event: EditEvent;
  verdict: LaidVerdict;
  clip: string | null;
  used: { from: number; to: number } | null;
  shifted: boolean;
}

/** A job of clips that lie apart in time, some of them with a rewrap that lost its timecode; names come back on another day. */
function randomJob(random: () => number): { kept: Kept[]; doubled: Set<string> } {
  const below = (n: number) => Math.floor(random() * n);
  const kept: Kept[] = [];
  const doubled = new Set<string>();
  let second = 3600;
  for (let i = 0; i < 4 + below(20); i++) {
    const r = below(4) === 0 ? rate(50) : rate(25);
    const frames = (1 + below(8)) * 25 * (r.num / 25);
    second += 1 + below(500) + frames / r.num;
    const start = timecode(Math.ceil(second) * r.num, r);
    second += frames / r.num + 1;
    const again = i > 2 && below(5) === 0;
    const stem = again ? 'T0000' : `T${String(i).padStart(4, '0')}`;
    if (again) for (const name of [stem, `${stem}.MOV`, `${stem}_e.mov`]) doubled.add(name);
    const base = { reel: `R${i}`, rate: r, frames, channels: 2, sound: false };
    kept.push({
      clip: String(i),
      files: [
        { ...base, what: 'original', name: shownPath(`${stem}.MOV`), start },
        { ...base, what: 'proxy', name: shownPath(`${stem}.mp4`), start },
        ...(below(3) === 0
          ? [
              {
                ...base,
                what: 'rewrap' as const,
                name: shownPath(`${stem}_e.mov`),
                start: timecode(0, r),
                reel: null,
              },
            ]
          : []),
      ],
    });
  }
  return { kept, doubled };
}

/** An event of a random clip, with one fault or none, and what is to be found of it. */
function randomEvent(
  random: () => number,
  { kept, doubled }: ReturnType<typeof randomJob>,
  at: number,
): Planted {
  const below = (n: number) => Math.floor(random() * n);
  const of = kept[below(kept.length)]!;
  const [original, , rewrap] = of.files as [Held, Held, Held?];
  const r = original.rate!;
  const ratio = r.num / 25;
  const room = original.frames! / ratio;
  // In frames of the edit, which counts at 25.
  const frames = 1 + below(room);
  const first = below(room - frames + 1);
  const start = original.start!.frame / ratio;
  const make = (extra: Partial<EditEvent>, from: number): EditEvent => ({
    ...{
      label: String(at),
      from: at * 1000,
      to: at * 1000 + frames,
      name: null,
      file: null,
      reel: null,
      speed: 1,
      transition: null,
    },
    source: { from, frames, rate: rate(25), drop: false },
    ...extra,
  });
  const stem = original.name.replace('.MOV', '');
  const right = {
    clip: of.clip,
    used: { from: first * ratio, to: (first + frames) * ratio },
    shifted: false,
  };
  const good: LaidVerdict = ratio === 1 ? 'found' : 'rate';
  switch (below(7)) {
    case 0:
      return { ...right, event: make({ file: original.name }, start + first), verdict: good };
    case 1:
      return { ...right, event: make({ name: stem, reel: 'WRONG' }, start + first), verdict: good };
    case 2:
      return { ...right, event: make({ reel: original.reel }, start + first), verdict: good };
    case 3:
      return { ...right, event: make({}, start + first), verdict: good };
    case 4: {
      if (!rewrap || doubled.has(rewrap.name)) break;
      return { ...right, event: make({ file: rewrap.name }, first), verdict: good, shifted: true };
    }
    case 5: {
      if (doubled.has(original.name) || original.name === 'T0000.MOV') break;
      // From its middle to some frames behind its end.
      return {
        event: make({ file: original.name }, start + room - frames + 1 + below(20)),
        verdict: 'outside',
        clip: of.clip,
        used: null,
        shifted: false,
      };
    }
  }
  return {
    event: make({ name: 'stranger' }, 100 + below(50_000)),
    verdict: 'missing',
    clip: null,
    used: null,
    shifted: false,
  };
}

test('files that would count as an edit does: each once; none where the camera’s own does, at another rate, or of sound', () => {
  const low: Partial<Held> = { what: 'proxy' };
  const some = new Shelved([
    sky,
    // Its timecode was given back: the file of the camera begins at nothing.
    {
      clip: 'mended',
      files: [held('M001.mov', '09:00:00:00', { what: 'rewrap' }), held('M001.MOV', null)],
    },
    {
      clip: 'half',
      files: [held('H001.MOV', '08:00:00:00', {}, rate(50)), held('H001.mp4', null, { ...low, frames: 50 })],
    },
    { clip: 'sound', files: [held('S001.WAV', '07:00:00:00', { sound: true }), held('S001.mp4', null, low)] },
    { clip: 'bare', files: [held('N001.MOV', '06:00:00:00'), held('N001_low.mp4', null, low)] },
    { clip: 'other', files: [held('O001.MOV', '05:00:00:00'), held('upload.mp4', null, low)] },
  ]);
  const edit = editOf(
    ['B001_edit.mov', 'B001_edit.mov', 'M001.MOV', 'H001.mp4', 'S001.mp4', 'N001_low.mp4', 'upload.mp4'].map(
      (file) => event({ file }, '00:00:00:05'),
    ),
  );
  const of = lay(edit, some);
  expect(of.flat().every((l) => l.shifted !== null)).toBe(true);
  const zero = timecode(0, rate(25), false);
  expect(cutAlike(of, some)).toEqual([
    { clip: 'sky', stem: 'B001_edit', words: '_edit', startsAt: zero },
    { clip: 'bare', stem: 'N001_low', words: '_low', startsAt: zero },
    { clip: 'other', stem: 'O001', words: '', startsAt: zero },
  ]);
});

test('of a thousand random timelines over random jobs, as EDL and as OTIO, every planted fault is found and none made up', () => {
  const random = randomFrom(1015);
  const counts: Record<LaidVerdict, number> = {
    found: 0,
    rate: 0,
    outside: 0,
    unsure: 0,
    several: 0,
    missing: 0,
  };
  for (let n = 0; n < 1000; n++) {
    const job = randomJob(random);
    const planted = Array.from({ length: 1 + Math.floor(random() * 12) }, (_, i) =>
      randomEvent(random, job, i),
    );
    const edit = editOf(planted.map((p) => p.event));
    const read =
      n % 2 === 0
        ? readEdl(writeEdl(edit, edit.tracks), rate(25))
        : readOtio(
            writeOtio({ ...edit, start: 0 }, (e) =>
              e.file === null
                ? null
                : {
                    media: [
                      [
                        'DEFAULT_MEDIA',
                        { url: `file:///m/${e.file}`, name: e.file, from: 0, frames: 9, rate: rate(25) },
                      ],
                    ],
                    marks: [],
                    facts: {},
                  },
            ),
          );
    expect(read.faults).toEqual([]);
    const [found] = lay(read, new Shelved(job.kept));
    found!.forEach((l, i) => {
      const p = planted[i]!;
      const words = `timeline ${n}, event ${i}: ${formatTimecode(timecode(p.event.source.from, rate(25)))} ${l.why}`;
      expect([words, l.verdict, l.clip, l.shifted !== null]).toEqual([words, p.verdict, p.clip, p.shifted]);
      if (p.used) expect(l.used).toEqual(p.used);
      counts[l.verdict]++;
    });
  }
  // Each kind was tried often.
  expect(Math.min(counts.found, counts.rate, counts.outside, counts.missing)).toBeGreaterThan(300);
});
