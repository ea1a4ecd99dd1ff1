import { describe, expect, test } from '@jest/globals';
import { counterTurns } from '../intake/counter';
import { randomFrom } from '../platform/random';
import { type Roll, dateOf, spanWords, suspectClocks } from './clocks';

const at = (time: string, day = 6): number => Date.parse(`2026-05-0${day}T${time}Z`) / 1000;
const roll = (camera: string, time: string, extra: Partial<Roll> = {}): Roll => ({
  clip: `${camera} ${time}`,
  name: time,
  camera,
  day: 2,
  from: at(time),
  seconds: 10,
  timecode: null,
  written: null,
  ...extra,
});

test('a night shoot’s clips belong to the day before, up to the hour at which a day begins', () => {
  expect(dateOf('2026-05-07T02:30:00', 4)).toBe('2026-05-06');
  expect(dateOf('2026-05-07T04:00:00', 4)).toBe('2026-05-07');
  expect(dateOf('2026-05-07T02:30:00', 0)).toBe('2026-05-07');
});

test('spans in words', () =>
  expect([3600, -5400, 12, 0, 3661].map(spanWords)).toEqual([
    '1 h',
    '1 h 30 min',
    '12 s',
    '0 s',
    '1 h 1 min 1 s',
  ]));

describe('clocks that look wrong', () => {
  const others = [
    roll('B', '10:44:39'),
    roll('A', '10:44:41'),
    roll('B', '13:20:18'),
    roll('S', '13:20:16'),
    roll('B', '08:15:47'),
  ];

  test('against the other cameras: an hour slow, with what meets', () => {
    const found = suspectClocks([...others, roll('C', '09:44:38'), roll('C', '12:20:17')]);
    expect(found).toMatchObject([
      { camera: 'C', fromDay: 2, toDay: 2, seconds: 3600, kind: 'others', of: 2 },
    ]);
    expect(found[0]!.meetings.map((m) => m.otherName)).toEqual(['10:44:39', '13:20:18']);
    expect(found[0]!.because).toContain('2 of 2 clips');
  });

  test('fast clocks too; one that is right, or met by chance once, is left in peace', () => {
    expect(suspectClocks([...others, roll('C', '12:14:38'), roll('C', '14:50:17')])).toMatchObject([
      { camera: 'C', seconds: -5400 },
    ]);
    expect(suspectClocks([...others, roll('C', '10:44:45'), roll('C', '13:20:20')])).toEqual([]);
    expect(suspectClocks([...others, roll('C', '09:44:38'), roll('C', '11:59:59')])).toEqual([]);
    expect(suspectClocks([...others, roll('C', '09:44:38')])).toEqual([]);
  });

  test.each([1, -1, 4, -7, 23, 56, -56])(
    'a clock that is %s quarter hours off is found among very many clips, in whatever order they come',
    (quarters) => {
      const random = randomFrom(100 + quarters);
      const times = Array.from({ length: 60 }, () => Math.round(random() * 36_000));
      const clips = times
        .flatMap((t, i) => {
          const from = at('06:00:00') + t;
          return [
            roll('B', `b${i}`, { from }),
            roll('C', `c${i}`, { from: from + Math.round(random() * 16 - 8) - quarters * 900 }),
          ];
        })
        .sort(() => random() - 0.5);
      const of = suspectClocks(clips).find((s) => s.camera === 'C');
      expect(of).toMatchObject({ seconds: quarters * 900, kind: 'others', of: 60 });
      expect(of!.meetings).toHaveLength(60);
      for (const m of of!.meetings)
        expect(Math.abs(m.at + quarters * 900 - m.otherAt)).toBeLessThanOrEqual(20);
    },
  );

  test('of two cameras that contradict each other, the one whose clips all meet is the more likely', () => {
    const found = suspectClocks([
      roll('B', '10:44:39'),
      roll('B', '13:20:18'),
      roll('B', '15:00:00'),
      roll('C', '09:44:38'),
      roll('C', '12:20:17'),
    ]);
    expect(found.map((s) => [s.camera, s.seconds])).toEqual([['C', 3600]]);
    expect(
      suspectClocks([
        roll('B', '10:44:39'),
        roll('B', '13:20:18'),
        roll('C', '09:44:38'),
        roll('C', '12:20:17'),
      ]).map((s) => s.camera),
    ).toEqual(['B', 'C']);
  });

  test('against its own timecode, where it runs freely and stands apart by the same span', () => {
    const own = (time: string, apart: number) => roll('A', time, { timecode: (at(time) % 86_400) + apart });
    expect(
      suspectClocks([own('08:00:00', 3600), own('09:10:00', 3601), own('11:00:00', 3600)]),
    ).toMatchObject([{ camera: 'A', seconds: 3600, kind: 'timecode' }]);
    // A timecode that only runs while recording differs by something else every time.
    expect(
      suspectClocks([own('08:00:00', -20_000), own('09:10:00', -24_000), own('11:00:00', -30_000)]),
    ).toEqual([]);
    expect(suspectClocks([own('08:00:00', 0), own('09:10:00', 1), own('11:00:00', 0)])).toEqual([]);
    // Past midnight a minute is a minute.
    expect(
      suspectClocks(
        [own('23:59:30', 60), own('22:10:00', 60), own('21:00:00', 60)].map((r) => ({
          ...r,
          timecode: r.timecode! % 86_400,
        })),
      ),
    ).toMatchObject([{ seconds: 60 }]);
  });

  test('against the files’ own times: whole half hours only', () => {
    const file = (time: string, apart: number) => roll('A', time, { written: at(time) + 10 + apart });
    expect(
      suspectClocks([file('08:00:00', 7200), file('09:10:00', 7200), file('11:00:00', 7201)]),
    ).toMatchObject([{ camera: 'A', seconds: 7200, kind: 'fileTime' }]);
    // Copied without their times: all were written at once, long after.
    expect(
      suspectClocks([file('08:00:00', 500_000), file('09:10:00', 495_000), file('11:00:00', 480_000)]),
    ).toEqual([]);
    expect(suspectClocks([file('08:00:00', 700), file('09:10:00', 700), file('11:00:00', 700)])).toEqual([]);
  });

  test('the same finding on days in a row is one suggestion', () => {
    const day3 = (r: Roll): Roll => ({ ...r, day: 3, from: r.from + 86_400 });
    const two = [...others, roll('C', '09:44:38'), roll('C', '12:20:17')];
    expect(suspectClocks([...two, ...two.map(day3)])).toMatchObject([
      { camera: 'C', fromDay: 2, toDay: 3, seconds: 3600, of: 4 },
    ]);
  });
});

describe('a camera’s counter', () => {
  const c = (name: string, time: string) => ({ name, recordedAt: `2026-05-06T${time}` });
  test('begins again, or goes back though time goes on', () => {
    expect(
      counterTurns([
        c('T0010', '09:00:00'),
        c('T0011', '10:00:00'),
        c('T0001', '11:00:00'),
        c('T0002', '12:00:00'),
      ]),
    ).toEqual(['the counter begins again with T0001 after T0011']);
    expect(counterTurns([c('T0010', '09:00:00'), c('T0009', '10:00:00')])[0]).toContain(
      'T0009 was recorded after T0010',
    );
  });
  test('in order, of two patterns, or without a time: nothing is said', () => {
    expect(counterTurns([c('T0010', '09:00:00'), c('T0011', '10:00:00'), c('A001', '09:30:00')])).toEqual([]);
    expect(
      counterTurns([
        { name: 'T0002', recordedAt: null },
        { name: 'T0001', recordedAt: null },
      ]),
    ).toEqual([]);
    expect(counterTurns([c('T0010', '09:00:00'), c('T0010', '09:00:00')])).toEqual([]);
  });
});
