import { describe, expect, test } from '@jest/globals';
import { rate } from '../platform/timecode/rate';
import { briefOf, NO_BRIEF } from './brief';
import type { FieldId, Source, Statement } from './catalogue';
import { factsOf } from './facts';
import type { Value } from './values';

const said = (field: FieldId, value: Value, source: Source = 'container'): Statement => ({
  field,
  value,
  source,
});
const count = (field: FieldId, n: number) => said(field, { type: 'count', count: n });
const words = (field: FieldId, text: string) => said(field, { type: 'text', text });
const start = (frame: number, source: Source = 'container') =>
  said('start', { type: 'timecode', timecode: { frame, rate: rate(25), drop: false } }, source);
const recorded = said(
  'recordedAt',
  { type: 'moment', moment: { local: '2026-05-06T14:22:05', offset: null } },
  'sidecar',
);
const film = [
  recorded,
  said('rate', { type: 'rate', rate: rate(25) }),
  count('frames', 250),
  words('codec', 'H.264'),
  words('container', 'MP4'),
  words('chroma', '4:2:0'),
  count('bitDepth', 8),
  count('width', 1920),
  count('height', 1080),
  count('channels', 2),
];
const brief = (...more: Statement[]) => briefOf(factsOf([...film, ...more]));

describe('a clip in brief', () => {
  test('says what lists show: time, length, timecode of both ends, picture, sound', () => {
    expect(brief(start(25 * 3600))).toMatchObject({
      recordedAt: '2026-05-06T14:22:05',
      recordedBy: 'sidecar',
      rate: rate(25),
      frames: 250,
      seconds: 10,
      start: '01:00:00:00',
      end: '01:00:10:00',
      timecode: 3600,
      codec: 'H.264',
      width: 1920,
      height: 1080,
      channels: 2,
      playable: true,
      looks: [],
    });
  });

  test('a timecode that is zero, or the clock’s stand-in, is none of its own', () => {
    expect(brief(start(0))).toMatchObject({
      start: '00:00:00:00',
      timecode: null,
      looks: [expect.stringContaining('zero')],
    });
    expect(brief(start(25 * 60, 'clock'))).toMatchObject({
      start: '00:01:00:00',
      timecode: null,
      looks: [expect.stringContaining('stands in')],
    });
  });

  test('sound is as long as its samples, what has neither as it says', () => {
    expect(briefOf(factsOf([count('samples', 96_000), count('sampleRate', 48_000)])).seconds).toBe(2);
    expect(briefOf(factsOf([said('length', { type: 'number', number: 3.5 })])).seconds).toBe(3.5);
  });

  test('a clock that was put right is shown right, and said by whom', () => {
    const context = { clockSeconds: 3600 };
    expect(briefOf(factsOf(film, context), context)).toMatchObject({
      recordedAt: '2026-05-06T15:22:05',
      recordedBy: 'correction',
    });
  });

  test('a rate that is not the job’s is a look; what nobody read has nothing at all', () => {
    const context = { jobRate: rate(24) };
    expect(briefOf(factsOf([...film, start(25)], context), context).looks.join(' ')).toContain(
      'does not belong to a job at 24',
    );
    expect(Object.values(NO_BRIEF).filter((v) => v !== null && v !== false)).toEqual([[]]);
  });
});
