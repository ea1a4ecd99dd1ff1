import { describe, expect, test } from '@jest/globals';
import { rate } from '../platform/timecode/rate';
import { parseTimecode } from '../platform/timecode/timecode';
import { FIELDS, formatValue, type Statement } from './catalogue';
import {
  believed,
  chooseFacts,
  count,
  findings,
  matrixOf,
  proxyMatrixOf,
  rateOf,
  startOf,
  text,
} from './facts';
import { parseMoment, zoneOf } from './moments';
import { pixelFormat, ProbeOutput, reelIn, statementsFromProbe, streamFrames, streamRate } from './probe';
import { statementsFromSidecar } from './sidecar';
import type { XmlNode } from './xml';

const tc = (s: string, fps = 25): Statement['value'] => ({
  type: 'timecode',
  timecode: parseTimecode(s, rate(fps))!,
});
const says = (
  source: Statement['source'],
  value: Statement['value'],
  field: Statement['field'] = 'start',
): Statement => ({ field, value, source });

describe('choosing', () => {
  test('a timecode one frame off contradicts, late in the day as early', () => {
    for (const [a, b] of [
      ['23:59:40:00', '23:59:40:01'],
      ['10:00:00:00', '10:00:17:00'],
      ['00:00:01:00', '00:00:01:01'],
    ] as const) {
      const facts = chooseFacts([says('timecodeTrack', tc(a)), says('sidecar', tc(b))]);
      expect(findings(facts).map((f) => f.code)).toEqual(['timecodeDisagrees']);
      expect(findings(chooseFacts([says('timecodeTrack', tc(a)), says('sidecar', tc(a))]))).toEqual([]);
    }
  });

  test('what a job believes is one statement of each field that it has its own order for, and no time of day', () => {
    const track = says('timecodeTrack', tc('14:22:05:00'));
    const sidecar = says('sidecar', tc('10:00:00:00'));
    const clock = says('clock', tc('09:00:00:00'));
    const codecs = [
      says('container', { type: 'text', text: 'HEVC' }, 'codec'),
      says('sidecar', { type: 'text', text: 'H.265' }, 'codec'),
    ];
    const all = [track, sidecar, clock, ...codecs];
    expect(believed(all, {})).toEqual([track, sidecar, ...codecs]);
    expect(believed(all, { start: ['sidecar'] })).toEqual([sidecar, ...codecs]);
    // Also where the clock is what it believes most.
    expect(believed(all, { start: ['clock', 'sidecar'], codec: ['sidecar'] })).toEqual([sidecar, codecs[1]]);
  });

  test('the matrix of a picture is the one it states, else that of its size; of JPEG its decoder knows', () => {
    const matrix = (codec: string, height: number, stated?: string, of = matrixOf): string =>
      of(
        chooseFacts([
          says('container', { type: 'text', text: codec }, 'codec'),
          says('container', { type: 'count', count: height }, 'height'),
          ...(stated ? [says('container', { type: 'text', text: stated }, 'matrix')] : []),
        ]),
      );
    expect(matrix('HEVC', 2160)).toBe('bt709');
    expect(matrix('HEVC', 2160, 'bt2020nc')).toBe('bt2020');
    expect(matrix('DV', 576)).toBe('smpte170m');
    expect(matrix('Motion JPEG', 1080)).toBe('auto');
    // A proxy may have been made another by a look, and says so.
    expect(matrix('HEVC', 2160, 'bt2020nc', proxyMatrixOf)).toBe('auto');
    expect(matrix('HEVC', 2160, undefined, proxyMatrixOf)).toBe('bt709');
  });

  test('a coded size is the shown one rounded up to blocks, or a field’s; another size contradicts', () => {
    const height = (n: number): Statement['value'] => ({ type: 'count', count: n });
    const codes = (a: number, b: number) =>
      findings(chooseFacts([says('container', height(a), 'height'), says('tags', height(b), 'height')])).map(
        (f) => f.code,
      );
    for (const coded of [1080, 1088, 544]) expect(codes(1080, coded)).toEqual([]);
    for (const other of [2160, 540, 1090, 720]) expect(codes(1080, other)).toEqual(['factDisagrees']);
  });

  test('the timecode track goes before the sidecar, a zero one behind it', () => {
    const good = chooseFacts([says('sidecar', tc('14:22:05:00')), says('timecodeTrack', tc('14:22:06:00'))]);
    expect(good.get('start')!.chosen.source).toBe('timecodeTrack');
    const zero = chooseFacts([says('timecodeTrack', tc('00:00:00:00')), says('sidecar', tc('14:22:05:00'))]);
    expect(zero.get('start')!.chosen.source).toBe('sidecar');
    expect(findings(zero)).toEqual([
      {
        code: 'timecodeDisagrees',
        field: 'start',
        text: 'The timecode track says 00:00:00:00, the sidecar 14:22:05:00. The sidecar is used.',
      },
    ]);
  });

  test('a person goes before everything, even with zero', () => {
    const f = chooseFacts([says('timecodeTrack', tc('10:00:00:00')), says('person', tc('00:00:00:00'))]);
    expect(f.get('start')!.chosen.source).toBe('person');
  });

  test('a track at half the rate that names the same address does not disagree', () => {
    expect(
      findings(
        chooseFacts([says('timecodeTrack', tc('14:22:05:24', 50)), says('sidecar', tc('14:22:05:12', 25))]),
      ),
    ).toEqual([]);
  });

  test('zero, missing and stand-in timecodes are said', () => {
    // What has no frames, a still or a sound recording, misses none.
    expect(findings(chooseFacts([]))).toEqual([]);
    const picture = says('container', { type: 'rate', rate: rate(25) }, 'rate');
    expect(findings(chooseFacts([picture])).map((f) => f.code)).toEqual(['timecodeMissing']);
    expect(
      findings(chooseFacts([picture, says('timecodeTrack', tc('00:00:00:00'))])).map((f) => f.code),
    ).toEqual(['timecodeZero']);
    expect(findings(chooseFacts([picture, says('clock', tc('14:00:00:00'))])).map((f) => f.code)).toEqual([
      'timecodeMissing',
    ]);
    expect(
      findings(
        chooseFacts([picture, says('clock', tc('14:00:00:00')), says('timecodeTrack', tc('14:00:01:00'))]),
      ),
    ).toEqual([]);
  });

  test('values are shown with their units', () => {
    expect(formatValue({ type: 'count', count: 1920 }, 'width')).toBe('1920 px');
    expect(formatValue({ type: 'rate', rate: rate(30000, 1001) })).toBe('29.97 fps');
  });

  test('the catalogue names each field once', () => {
    expect(new Set(FIELDS.map((f) => f.id)).size).toBe(FIELDS.length);
  });
});

const PROBE = ProbeOutput.parse({
  format: {
    format_name: 'mov,mp4,m4a,3gp,3g2,mj2',
    tags: { major_brand: 'qt  ', creation_time: '2026-05-06T13:22:05.000000Z' },
  },
  streams: [
    {
      index: 0,
      codec_type: 'video',
      codec_name: 'hevc',
      profile: 'Rext',
      width: 1280,
      height: 720,
      pix_fmt: 'yuv422p10le',
      color_range: 'tv',
      color_space: 'bt2020nc',
      color_transfer: 'unknown',
      r_frame_rate: '100/1',
      avg_frame_rate: '100/1',
      nb_frames: '400',
    },
    { index: 1, codec_type: 'audio', codec_name: 'pcm_s24le', channels: 1, sample_rate: '48000' },
    { index: 2, codec_type: 'audio', codec_name: 'pcm_s24le', channels: 1, sample_rate: '48000' },
    { index: 3, codec_type: 'data', tags: { timecode: '14:22:05:40' } },
  ],
});

describe('what ffprobe says', () => {
  test('becomes statements with their sources', () => {
    const f = chooseFacts(
      statementsFromProbe(PROBE, { zoneMinutes: 60, modified: new Date('2026-05-07T00:00:00Z') }),
    );
    expect([
      text(f, 'container'),
      text(f, 'codec'),
      text(f, 'chroma'),
      count(f, 'bitDepth'),
      count(f, 'frames'),
      count(f, 'channels'),
    ]).toEqual(['MOV', 'HEVC', '4:2:2', 10, 400, 2]);
    expect(rateOf(f)).toEqual({ num: 100, den: 1 });
    expect(f.get('start')!.chosen).toMatchObject({ source: 'timecodeTrack' });
    expect(startOf(f)).toEqual(parseTimecode('14:22:05:40', rate(100)));
    expect(f.get('recordedAt')!.chosen.value).toEqual({
      type: 'moment',
      moment: { local: '2026-05-06T14:22:05', offset: 60 },
    });
    expect(text(f, 'transfer')).toBeNull();
  });

  test('a codec without words of ours is said as it is, also by a name that every object has', () => {
    const streams = [{ ...PROBE.streams[0]!, codec_name: 'constructor' }];
    expect(text(chooseFacts(statementsFromProbe({ ...PROBE, streams }, { zoneMinutes: 0 })), 'codec')).toBe(
      'constructor',
    );
  });

  test('the reel a file says it is of, wherever that stands in it; one of blanks is none', () => {
    const tagged = (stream: string, format: string) => ({
      streams: [PROBE.streams[0]!, { index: 1, tags: { reel_name: stream } }],
      format: { ...PROBE.format, tags: { reel_name: format } },
    });
    expect([reelIn(tagged('A001', 'B2')), reelIn(tagged(' ', 'B2 \u0001')), reelIn(tagged('', ''))]).toEqual([
      'A001',
      'B2',
      null,
    ]);
    expect(reelIn(PROBE)).toBeNull();
  });

  test('silence is no channels, not an unknown', () => {
    const f = chooseFacts(
      statementsFromProbe({ ...PROBE, streams: PROBE.streams.slice(0, 1) }, { zoneMinutes: 0 }),
    );
    expect(count(f, 'channels')).toBe(0);
  });

  test('frames from packets, the container, or time', () => {
    expect(streamFrames({ index: 0, nb_frames: '10', nb_read_packets: '9' }, rate(25))).toBe(9);
    expect(streamFrames({ index: 0, duration_ts: 50, time_base: '1/25' }, rate(25))).toBe(50);
    expect(streamFrames({ index: 0, duration_ts: 2002, time_base: '1/1000' }, rate(30000, 1001))).toBe(60);
    expect(streamFrames({ index: 0 }, rate(25))).toBeNull();
    expect(streamRate({ index: 0, avg_frame_rate: '0/0', r_frame_rate: '25/1' })).toEqual({
      num: 25,
      den: 1,
    });
  });

  test.each([
    ['yuv420p', '4:2:0', 8],
    ['yuv422p10le', '4:2:2', 10],
    ['yuvj420p', '4:2:0', 8],
    ['yuv444p12le', '4:4:4', 12],
    ['nv12', '4:2:0', 8],
    ['gray', '4:0:0', 8],
    ['gbrp10le', '4:4:4', 10],
    ['gbrapf32le', '4:4:4', 32],
    ['rgb24', '4:4:4', 8],
    ['rgb48be', '4:4:4', 16],
    ['rgba64le', '4:4:4', 16],
    ['rgbaf16le', '4:4:4', 16],
    ['x2rgb10le', '4:4:4', 10],
    ['gray16be', '4:0:0', 16],
    ['grayf32le', '4:0:0', 32],
    ['ya8', '4:0:0', 8],
    ['p010le', '4:2:0', 10],
    ['p416le', '4:4:4', 16],
    ['nv20le', '4:2:2', 10],
    ['uyvy422', '4:2:2', 8],
    ['yuva444p16le', '4:4:4', 16],
    ['', null, null],
    ['bayer_rggb16le', null, null],
  ])('pixel format %j', (name, chroma, bitDepth) => expect(pixelFormat(name)).toEqual({ chroma, bitDepth }));

  test('dates of unset clocks are no dates', () => {
    expect(parseMoment('1904-01-01T00:00:00Z', 0)).toBeNull();
    expect(parseMoment('1970-01-01T00:00:00.000000Z', 0)).toBeNull();
    expect(parseMoment('2026-13-01T00:00:00Z', 0)).toBeNull();
    expect(
      ['T14:22:05+02:00', ' 14:22:05-0530', 'T14:22:05Z', 'T14:22:05', ''].map((t) =>
        zoneOf(`2026-05-06${t}`),
      ),
    ).toEqual(['+02:00', '-05:30', null, null, null]);
    expect(parseMoment('2026-05-06T23:30:00Z', 60)).toEqual({ local: '2026-05-07T00:30:00', offset: 60 });
    expect(parseMoment('2026-05-06T14:22:05+02:00', 60)).toEqual({
      local: '2026-05-06T14:22:05',
      offset: 120,
    });
    expect(parseMoment('2026-05-06T14:22:05', 60)).toEqual({ local: '2026-05-06T14:22:05', offset: null });
  });
});

describe('what an XML sidecar says', () => {
  const node = (
    name: string,
    attributes: Record<string, string> = {},
    children: XmlNode[] = [],
  ): XmlNode => ({ name, attributes, children, text: '' });

  test('timecode table, date, device', () => {
    const f = chooseFacts(
      statementsFromSidecar(
        node('Clip', {}, [
          node('TimecodeTable', { tcFps: '25', dropFrame: 'false' }, [
            node('Entry', { frameCount: '0', value: '00052214' }),
            node('Entry', { frameCount: '99', value: '24082214' }),
          ]),
          node('CreationDate', { value: '2026-05-06T14:22:05+00:00' }),
          node('Device', { manufacturer: 'Tarn', modelName: 'Tarn T5', serialNo: '0042' }),
        ]),
        0,
      ),
    );
    expect(startOf(f)).toEqual(parseTimecode('14:22:05:00', rate(25)));
    expect([text(f, 'maker'), text(f, 'model'), text(f, 'serial')]).toEqual(['Tarn', 'Tarn T5', '0042']);
  });

  test('nonsense says nothing', () => {
    expect(
      statementsFromSidecar(node('Clip', { fps: 'fast' }, [node('Entry', { value: '99999999' })]), 0),
    ).toEqual([]);
    expect(statementsFromSidecar(node('T', { fps: '25' }, [node('E', { value: '99999999' })]), 0)).toEqual(
      [],
    );
  });
});
