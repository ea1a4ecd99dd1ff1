import { describe, expect, test } from '@jest/globals';
import { shownPath } from '../platform/names';
import { randomFrom } from '../platform/random';
import { rate, type Rate } from '../platform/timecode/rate';
import { parseTimecode, timecode } from '../platform/timecode/timecode';
import type { Statement } from '../facts';
import { firstFrame, type Held, heldOriginal, knownStart, stemOf } from './held';
import { countWays, type Rehearsed, rehearse } from './rehearsal';
import { rewrapWithTimecode } from './mend';

const held = (name: string, start: string | null, extra: Partial<Held> = {}, r: Rate = rate(25)): Held => ({
  what: 'original',
  name: shownPath(name),
  reel: null,
  start: start === null ? null : parseTimecode(start, r),
  rate: r,
  frames: 100,
  channels: 2,
  sound: false,
  ...extra,
});
const proxy = (name: string, start: string | null, extra: Partial<Held> = {}, r?: Rate): Held =>
  held(name, start, { what: 'proxy', ...extra }, r);
const clip = (id: string, edit: Held, original: Held, start = original.start): Rehearsed => ({
  ...{ clip: id, edit, original, start, pair: edit === original ? null : { state: 'proven', reason: '' } },
});
const results = (clips: Rehearsed[], at = 0) => rehearse(clips)[at]!.ways.map((w) => w.result);
const whys = (clips: Rehearsed[], at = 0) => rehearse(clips)[at]!.ways.map((w) => w.why);

describe('the ways an edit finds its originals', () => {
  const a = clip(
    'a',
    proxy('A1.mp4', '10:00:00:00', { reel: 'A001' }),
    held('A1.mov', '10:00:00:00', { reel: 'A001' }),
  );
  const b = clip('b', proxy('B1.mov', '11:00:00:00'), held('B1.mov', '11:00:00:00'));

  test('by name with and without extension, by reel and timecode, by timecode alone', () => {
    expect(results([a, b])).toEqual(['none', 'connects', 'connects', 'connects']);
    expect(results([a, b], 1)).toEqual(['connects', 'connects', 'none', 'connects']);
    expect(whys([a, b])[0]).toBe('no original is named A1.mp4');
    expect(whys([a, b], 1)[2]).toBe('the proxy states no reel');
    expect(countWays(rehearse([a, b])).map((w) => [w.way, w.counts.connects])).toEqual([
      ['name', 1],
      ['stem', 2],
      ['reel', 1],
      ['timecode', 2],
    ]);
  });

  test('a timecode of zero in the edit does not reach an original that starts elsewhere (common practice)', () => {
    const lost = clip('c', proxy('C1.mov', '00:00:00:00'), held('C1.mov', '14:22:05:12'));
    expect(results([lost])).toEqual(['apart', 'apart', 'none', 'none']);
    expect(rehearse([lost])[0]).toMatchObject({ verdict: 'fails', mends: ['again'] });
    expect(whys([lost])[0]).toBe('the proxy starts at 00:00:00:00, the original starts at 14:22:05:12');
    // None at all counts from zero, too.
    const none = clip('d', proxy('D1.mov', null), held('D1.mov', '00:00:00:00'), null);
    expect(results([none])[0]).toBe('connects');
  });

  test('the original whose timecode a rewrap lost is told from what is known of it, and gets it back', () => {
    const was = parseTimecode('14:22:05:12', rate(25));
    const lost = clip('c', proxy('C1.mov', '14:22:05:12'), held('C1.mov', '00:00:00:00'), was);
    expect(rehearse([lost])[0]).toMatchObject({
      verdict: 'fails',
      mends: ['rewrap'],
      notes: ['The original says 00:00:00:00, though it was recorded from 14:22:05:12 on.'],
    });
    const mended = { ...lost, original: held('C1.mov', '14:22:05:12', { what: 'rewrap' as const }) };
    expect(rehearse([mended])[0]).toMatchObject({ verdict: 'connects', mends: [], notes: [] });
    expect(rewrapWithTimecode('.MP4')).toMatchObject({ container: 'mp4', words: '', purpose: 'rewrap' });
    expect(rewrapWithTimecode('.mxf').container).toBe('mov');
  });

  test('names that come back every day find several, reel and timecode tell them apart', () => {
    const days = ['10:00:00:00', '11:00:00:00'].map((start, i) =>
      clip(
        `${i}`,
        proxy('T0001.MP4', start, { reel: `B00${i}` }),
        held('T0001.MP4', start, { reel: `B00${i}` }),
      ),
    );
    expect(results(days)).toEqual(['several', 'several', 'connects', 'connects']);
    expect(rehearse(days)[0]).toMatchObject({ verdict: 'connects', mends: [] });
    const atOnce = days.map((d) => ({ ...d, edit: days[0]!.edit, original: days[0]!.original, start: null }));
    expect(rehearse(atOnce)[0]).toMatchObject({ verdict: 'several', mends: ['name'] });
    expect(whys(atOnce)[3]).toBe('2 originals fit, T0001.MP4 too');
  });

  test('a name that is another clip’s is said to be that', () => {
    const one = clip('1', proxy('X2.mov', '10:00:00:00'), held('X1.mov', '10:00:00:00'));
    const two = clip('2', proxy('X9.mov', '11:00:00:00'), held('X2.mov', '11:00:00:00'));
    expect(results([one, two])).toEqual(['other', 'other', 'none', 'connects']);
    expect(whys([one, two])[0]).toBe('finds X2.mov of another clip');
  });

  test('another rate, more frames, other capitals', () => {
    const fast = clip(
      '1',
      proxy('F.mov', '10:00:00:00', {}, rate(25)),
      held('F.mov', '10:00:00:00', { frames: 200 }, rate(50)),
    );
    expect(whys([fast])[0]).toBe('the proxy runs at 25, the original at 50');
    const long = clip('1', proxy('F.mov', '10:00:00:00', { frames: 103 }), held('F.mov', '10:00:00:00'));
    expect(whys([long])).toEqual([
      'the proxy has 3 frames more than the original',
      'the proxy has 3 frames more than the original',
      'the proxy states no reel',
      'no original holds its timecode',
    ]);
    const cased = clip('1', proxy('f.MOV', '10:00:00:00'), held('F.mov', '10:00:00:00'));
    expect(whys([cased])[0]).toBe('no original is named f.MOV: F.mov differs in capitals');
    // One name, written in two forms of Unicode.
    const forms = clip('1', proxy('Mu\u0308hle.mov', '10:00:00:00'), held('M\u00fchle.mov', '10:00:00:00'));
    expect(results([forms])[0]).toBe('connects');
  });

  test('timecode of a take that runs past midnight; drop-frame is told from non-drop', () => {
    const late = clip(
      '1',
      proxy('N.mov', '00:00:01:00', { frames: 10 }),
      held('M.mov', '23:59:58:00', { frames: 200 }),
    );
    expect(results([late])[3]).toBe('apart');
    const ntsc = rate(30000, 1001);
    const drop = clip('1', proxy('N.mov', '01:00:00:00', {}, ntsc), held('N.mov', '01:00:00;00', {}, ntsc));
    expect(results([drop])).toEqual(['apart', 'apart', 'none', 'none']);
  });

  test('what does not show the same pictures does not connect, whatever its figures; what was not compared is said', () => {
    const right = clip('1', proxy('P.mov', '10:00:00:00'), held('P.mov', '10:00:00:00'));
    const other = {
      ...right,
      pair: { state: 'mismatched' as const, reason: 'pictures: original 10, proxy another' },
    };
    expect(rehearse([other])[0]).toMatchObject({ verdict: 'fails', mends: ['again'] });
    expect(whys([other])[0]).toBe('the pair does not match: pictures: original 10, proxy another');
    const open = { ...right, pair: { state: 'unproven' as const, reason: '' } };
    expect(rehearse([open])[0]).toMatchObject({
      verdict: 'connects',
      notes: ['That its pictures are the original’s is not proven: it was not checked.'],
    });
  });

  test('a name alone connects nothing of which rate or length are not known; fewer frames are not the same', () => {
    const bare = { rate: null, frames: null };
    expect(results([clip('1', proxy('A.mov', null, bare), held('A.mov', null))])).toEqual([
      'apart',
      'apart',
      'none',
      'none',
    ]);
    expect(results([clip('1', proxy('A.mov', null), held('A.mov', null, bare))])[0]).toBe('apart');
    const short = clip('1', proxy('A.mov', '10:00:00:00', { frames: 98 }), held('A.mov', '10:00:00:00'));
    expect(results([short])).toEqual(['apart', 'apart', 'none', 'apart']);
    expect(whys([short])[0]).toBe('the proxy has 2 frames fewer than the original');
  });

  test('sound that ran at the same time is not taken for the picture', () => {
    const picture = clip('1', proxy('P.mp4', '10:00:00:00'), held('A.mov', '10:00:00:00'));
    const sound = held('S.wav', '09:59:00:00', { frames: 9000, sound: true });
    expect(results([picture, clip('2', sound, sound)])[3]).toBe('connects');
    expect(results([picture, clip('2', sound, sound)], 1)[3]).toBe('connects');
  });

  test('the first frame of a file whose timecode is counted at another rate', () => {
    const start = parseTimecode('14:22:05:12', rate(25));
    expect(firstFrame({ start, rate: rate(50) })).toBe(51_725 * 50 + 24);
    expect(firstFrame({ start: parseTimecode('14:22:05:25', rate(50)), rate: rate(25) })).toBeNull();
    expect(firstFrame({ start: null, rate: rate(25) })).toBe(0);
    expect(firstFrame({ start, rate: null })).toBeNull();
  });

  test('sound that is laid out otherwise is said; what is not known asks to be looked at', () => {
    const mono = clip('1', proxy('S.mov', '10:00:00:00', { channels: 1 }), held('S.mov', '10:00:00:00'));
    expect(rehearse([mono])[0]!.notes).toEqual(['The proxy has 1 audio channel, the original 2.']);
    const unknown = clip(
      '1',
      proxy('S.mov', null, { rate: null, frames: null }),
      held('S.mov', '10:00:00:00'),
    );
    expect(rehearse([unknown])[0]).toMatchObject({ verdict: 'fails', mends: ['look'] });
    // Sound has no frames, and nothing is missing of it.
    const sound = held('S.wav', '10:00:00:00', { rate: null, frames: null });
    expect(rehearse([clip('1', sound, sound)])[0]).toMatchObject({
      verdict: 'connects',
      notes: [],
      mends: [],
    });
  });
});

test('what stands beside a file, in its name or in what a person says is not in the file', () => {
  const start = (frame: number, source: Statement['source']): Statement => ({
    field: 'start',
    source,
    value: { type: 'timecode', timecode: timecode(frame, rate(25)) },
  });
  const reel = (source: Statement['source'], words: string): Statement => ({
    field: 'reel',
    source,
    value: { type: 'text', text: words },
  });
  const all = [
    start(0, 'timecodeTrack'),
    start(900, 'sidecar'),
    reel('name', 'A001'),
    reel('container', 'R7'),
  ];
  expect(heldOriginal(shownPath('x.mov'), all)).toMatchObject({ start: { frame: 0 }, reel: 'R7' });
  expect(knownStart(all)).toMatchObject({ frame: 900 });
  expect(heldOriginal(shownPath('x.mov'), [start(900, 'clock'), reel('person', 'B2')])).toMatchObject({
    start: null,
    reel: null,
  });
  // Nor is a clock that was put right.
  expect(knownStart([start(900, 'clock'), start(910, 'correction')])).toBeNull();
  expect(knownStart([start(700, 'person'), ...all], { start: ['sidecar'] })).toMatchObject({ frame: 900 });
  // Sound alone: 4.01 s of 48 000 samples a second are 101 begun frames of its timecode.
  const number = (field: 'samples' | 'sampleRate', n: number): Statement => ({
    ...{ field, source: 'container' },
    value: { type: 'count', count: n },
  });
  const sound = [start(900, 'bext'), number('samples', 192_480), number('sampleRate', 48_000)];
  expect(heldOriginal(shownPath('x.wav'), sound)).toMatchObject({ sound: true, rate: rate(25), frames: 101 });
  expect(heldOriginal(shownPath('x.wav'), sound.slice(1))).toMatchObject({ rate: null, frames: null });
});

// Against the plainest way to say it: every original tried, one after another.
test('of three hundred random jobs every way finds what trying all originals finds', () => {
  const random = randomFrom(15);
  const below = (n: number) => Math.floor(random() * n);
  for (let job = 0; job < 300; job++) {
    const clips = Array.from({ length: 1 + below(12) }, (_, i) => {
      const r = [rate(25), rate(50)][below(2)]!;
      const of = (what: Held['what']): Held => ({
        ...{ what, reel: [null, 'A', 'B'][below(3)]!, channels: 2, sound: false },
        name: shownPath(`${['a', 'b', 'c'][below(3)]}.${['mov', 'mp4'][below(2)]}`),
        start: below(6) === 0 ? null : timecode(below(40) - 10 + (below(4) === 0 ? 0 : 2_159_990), rate(25)),
        rate: r,
        frames: 1 + below(20),
      });
      return clip(String(i), of('proxy'), of('original'), null);
    });
    rehearse(clips).forEach((finding, i) => {
      const { edit } = clips[i]!;
      const day = edit.rate!.num * 86_400;
      const frame = (h: Held) => h.start!.frame * (h.rate!.num / 25);
      const covers = (o: Held) =>
        o.start !== null &&
        o.rate!.num === edit.rate!.num &&
        [0, day].some(
          (d) => frame(o) <= frame(edit) + d && frame(edit) + d + edit.frames! <= frame(o) + o.frames!,
        );
      const fits: ((o: Held) => boolean)[] = [
        (o) => o.name === edit.name,
        (o) => stemOf(o.name) === stemOf(edit.name),
        (o) => edit.start !== null && edit.reel !== null && covers(o) && o.reel === edit.reel,
        (o) => edit.start !== null && covers(o),
      ];
      fits.forEach((fit, w) => {
        const found = clips.filter((c) => fit(c.original));
        const { result } = finding.ways[w]!;
        const mine = found.some((c) => c.clip === clips[i]!.clip);
        if (found.length === 0) expect(result).toBe('none');
        else if (!mine) expect(result).toBe('other');
        else if (found.length > 1) expect(result).toBe('several');
        else expect(['connects', 'apart']).toContain(result);
      });
    });
  }
});
