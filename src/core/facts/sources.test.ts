import { describe, expect, test } from '@jest/globals';
import { applyCdl, NEUTRAL, readCdl, readCube, statementsFromLook } from './looks';
import { rate } from '../platform/timecode/rate';
import type { Statement } from './catalogue';
import { chooseFacts, count, numberIn, rateOf, startOf, text } from './facts';
import { formatValue } from './catalogue';
import { readFlightLog, statementsFromFlightLog } from './flightLog';
import { ixmlRate, statementsFromIxml } from './ixml';
import { statementsFromName } from './names';
import { parseValue } from './parse';
import { statementsFromSidecar } from './sidecar';
import { statementsFromTags, withWords } from './tags';
import { parsePlace, sayTags, secondsOf } from './userTags';
import { Said } from './catalogue';
import { numberOf, sameValue } from './values';
import type { XmlNode } from './xml';

const el = (
  name: string,
  content: string | XmlNode[] = '',
  attributes: Record<string, string> = {},
): XmlNode => ({
  name,
  attributes,
  children: Array.isArray(content) ? content : [],
  text: typeof content === 'string' ? content : '',
});
const says = (list: readonly Statement[]) =>
  Object.fromEntries([...chooseFacts(list)].map(([id, { chosen }]) => [id, formatValue(chosen.value, id)]));

describe('flight logs', () => {
  const log =
    '1\n00:00:00,000 --> 00:00:01,000\nlat 12.34560 lon -32.1000 height 31.0 m iso 100 shutter 1/60 f 2.8 2026-05-07 06:30:12\n\n2\n00:00:01,000 --> 00:00:02,000\n[latitude: 12.3457] [longitude: -32.1001] [rel_alt: 45.8 abs_alt: 120.5] [ct : 5600]\n';

  test('position, height and exposure of each second; the clip has the first, and how high it came', () => {
    const points = readFlightLog(log);
    expect(points).toHaveLength(2);
    expect(points[1]).toMatchObject({
      at: 1,
      latitude: 12.3457,
      longitude: -32.1001,
      height: 45.8,
      altitude: 120.5,
      whiteBalance: 5600,
    });
    expect(says(statementsFromFlightLog(points, 0))).toEqual({
      latitude: '12.3456°',
      longitude: '-32.1°',
      altitude: '120.5 m',
      flightHeight: '31 m',
      flightHighest: '45.8 m',
      iso: '100',
      shutter: '1/60 s',
      aperture: 'f/2.8',
      whiteBalance: '5600 K',
      recordedAt: '2026-05-07 06:30:12',
    });
  });

  test('captions that say nothing, places off the globe, markup and Windows line ends', () => {
    expect(readFlightLog('1\r\n00:00:00,000 --> 00:00:01,000\r\nHello\r\n')).toEqual([]);
    expect(
      readFlightLog(
        '1\n00:00:00,000 --> 00:00:01,000\n<font size="28">lat: 123.0 lon: 400.0 iso: 200</font>',
      ),
    ).toMatchObject([{ latitude: null, longitude: null, iso: 200 }]);
    expect(readFlightLog('')).toEqual([]);
    expect(readFlightLog('lat 1 lon 2')).toEqual([]);
  });
});

describe('looks: ASC CDL', () => {
  const cdl = el('ColorDecisionList', [
    el('ColorDecision', [
      el(
        'ColorCorrection',
        [
          el('SOPNode', [
            el('Slope', '1.02 1.00 0.93'),
            el('Offset', '0.01 0.00 -0.01'),
            el('Power', '1.00 1.00 1.02'),
          ]),
          el('SatNode', [el('Saturation', '0.9')]),
        ],
        { id: 'A001_C001' },
      ),
    ]),
  ]);

  test('values are read; what is not stated is neutral; what cannot be is none', () => {
    expect(readCdl(cdl)).toEqual({
      id: 'A001_C001',
      slope: [1.02, 1, 0.93],
      offset: [0.01, 0, -0.01],
      power: [1, 1, 1.02],
      saturation: 0.9,
    });
    expect(readCdl(el('ColorCorrection', []))).toEqual(NEUTRAL);
    expect(readCdl(el('ColorCorrection', [el('SOPNode', [el('Power', '0 1 1')])]))).toBeNull();
    expect(readCdl(el('ColorCorrection', [el('SOPNode', [el('Slope', '1 two 1')])]))).toBeNull();
    expect(says(statementsFromLook({ cdl: readCdl(cdl), cube: null, name: 'x' }))).toEqual({
      lookName: 'A001_C001',
      slope: '1.02 1 0.93',
      offset: '0.01 0 -0.01',
      power: '1 1 1.02',
      saturation: '0.9',
    });
  });

  test('the formula: out = clamp(in · slope + offset) ^ power, then saturation by Rec. 709', () => {
    expect(applyCdl(NEUTRAL, [0.2, 0.5, 0.8])).toEqual([0.2, 0.5, 0.8].map((n) => expect.closeTo(n, 9)));
    // (0.5 · 1.2 + 0.1) ^ 2 = 0.49 for each channel; grey stays grey whatever the saturation.
    expect(
      applyCdl(
        { id: '', slope: [1.2, 1.2, 1.2], offset: [0.1, 0.1, 0.1], power: [2, 2, 2], saturation: 0.3 },
        [0.5, 0.5, 0.5],
      ),
    ).toEqual([0.49, 0.49, 0.49].map((n) => expect.closeTo(n, 9)));
    // Without saturation all is the luma of pure red.
    expect(applyCdl({ ...NEUTRAL, saturation: 0 }, [1, 0, 0])).toEqual(
      [0.2126, 0.2126, 0.2126].map((n) => expect.closeTo(n, 9)),
    );
    expect(applyCdl({ ...NEUTRAL, offset: [-1, 0, 1] }, [0.5, 0.5, 0.5])).toEqual(
      [0, 0.5, 1].map((n) => expect.closeTo(n, 9)),
    );
  });

  test('lookup tables', () => {
    expect(readCube('# made\nTITLE "Slack Water day"\nLUT_3D_SIZE 33\n0 0 0\n')).toEqual({
      title: 'Slack Water day',
      kind: '3D',
      points: 33,
    });
    expect(readCube('LUT_3D_SIZE one')).toBeNull();
    expect(says(statementsFromLook({ cdl: null, cube: readCube('LUT_1D_SIZE 1024'), name: 'day' }))).toEqual({
      lookName: 'day',
      lut: '1D, 1024 points',
    });
  });
});

test('iXML: scene, take, tracks, and what timecode counts at', () => {
  const ixml = el('BWFXML', [
    el('PROJECT', 'Slack Water'),
    el('SCENE', '12'),
    el('TAKE', '3'),
    el('CIRCLED', 'TRUE'),
    el('SPEED', [el('TIMECODE_RATE', '30000/1001'), el('TIMECODE_FLAG', 'DF')]),
    el('TRACK_LIST', [el('TRACK', [el('NAME', 'Boom')]), el('TRACK', [el('NAME', '')])]),
  ]);
  expect(says(statementsFromIxml(ixml))).toEqual({
    project: 'Slack Water',
    scene: '12',
    take: '3',
    circled: 'yes',
    timecodeRate: '29.97 fps',
    drop: 'yes',
    trackNames: 'Boom, —',
  });
  expect(ixmlRate(ixml)).toEqual(rate(30000, 1001));
  expect(ixmlRate(el('BWFXML'))).toBeNull();
});

test('sidecars: lens, exposure, curve, place, capture rate; by shape, not by name', () => {
  const f = statementsFromSidecar(
    el('Clip', [
      el('Picture', '', { captureFps: '100', formatFps: '25' }),
      el('Lens', '', { model: 'Tarn Prime', focalLengthMm: '35', aperture: '2.8' }),
      el('Exposure', '', { iso: '800', shutter: '1/200', whiteBalance: '5600' }),
      el('Gamma', '', { curve: 'T-Log', gamut: 'T-Wide' }),
      el('Place', '', { lat: '12.5', lon: '-32.25' }),
      el('Reel', 'B002'),
      el('Table', [el('E', '', { value: '00052214' })], { tcFps: '29.97', dropFrame: 'true' }),
    ]),
    0,
  );
  expect(says(f)).toMatchObject({
    sensorRate: '100 fps',
    baseRate: '25 fps',
    lensModel: 'Tarn Prime',
    focalLength: '35 mm',
    aperture: 'f/2.8',
    iso: '800',
    shutter: '1/200 s',
    whiteBalance: '5600 K',
    gamma: 'T-Log',
    gamut: 'T-Wide',
    latitude: '12.5°',
    longitude: '-32.25°',
    reel: 'B002',
    start: '14:22:05;00',
    drop: 'yes',
    timecodeRate: '29.97 fps',
  });
});

test('what ExifTool says becomes statements of the camera’s tags; empty and wild values none', () => {
  const f = statementsFromTags(
    {
      Make: 'Corvane',
      Model: ' C8 ',
      ISO: 800,
      ExposureTime: 0.02,
      FNumber: 2.8,
      FocalLength: 35,
      GPSLatitude: -12.5,
      GPSLongitude: 32,
      ColorTemperature: 5600,
      DateTimeOriginal: '2026:05:06 14:22:05',
      OffsetTimeOriginal: '+02:00',
      SerialNumber: 417,
      LensModel: '',
    },
    { zoneMinutes: 0, kind: 'picture' },
  );
  expect(says(f)).toMatchObject({
    maker: 'Corvane',
    model: 'C8',
    iso: '800',
    shutter: '1/50 s',
    aperture: 'f/2.8',
    focalLength: '35 mm',
    latitude: '-12.5°',
    whiteBalance: '5600 K',
    serial: '417',
    recordedAt: '2026-05-06 14:22:05',
  });
  expect(chooseFacts(f).get('recordedAt')!.chosen.value).toMatchObject({ moment: { offset: 120 } });
  expect(chooseFacts(f).has('lensModel')).toBe(false);
  // Times of a video's header are UTC.
  expect(
    says(statementsFromTags({ CreateDate: '2026:05:06 12:22:05' }, { zoneMinutes: 120, kind: 'other' })),
  ).toEqual({ recordedAt: '2026-05-06 14:22:05' });
  expect(
    statementsFromTags(
      {
        ISO: 1e300,
        ExposureTime: -1,
        FNumber: 'wide',
        CreateDate: '0000:00:00 00:00:00',
        Model: '\u0000\u0001',
      },
      { zoneMinutes: 0, kind: 'other' },
    ),
  ).toEqual([]);
});

test('names: reel and camera from name or folder, date and time where they stand in it', () => {
  expect(says(statementsFromName('Day 1/A001/A001_C003.MOV'))).toEqual({ reel: 'A001', cameraName: 'A' });
  expect(says(statementsFromName('B002/CLIP/T0001.MP4'))).toEqual({ reel: 'B002', cameraName: 'B' });
  expect(says(statementsFromName('DCIM/20260507_063012.MP4'))).toEqual({ recordedAt: '2026-05-07 06:30:12' });
  expect(says(statementsFromName('DCIM/19990230_996012.MP4'))).toEqual({});
});

test('user tags: keys of any house, places, exposure times', () => {
  const said = new Said('tags');
  sayTags(
    said,
    [
      { key: 'com.example.camera.model', text: 'C8' },
      { key: '\u00a9xyz', text: '+12.34-032.1+010/' },
      { key: 'com.example.iso', text: '800' },
      { key: 'unheard', text: 'of' },
      { key: '\u00a9day', text: '2026-05-06T14:22:05+0100' },
    ],
    0,
  );
  expect(says(said.statements)).toEqual({
    model: 'C8',
    latitude: '12.34°',
    longitude: '-32.1°',
    altitude: '10 m',
    iso: '800',
    zone: '+01:00',
    recordedAt: '2026-05-06 14:22:05',
  });
  expect([
    parsePlace('+91.0+000.0/'),
    parsePlace('+00.0+000.0/'),
    parsePlace('here'),
    secondsOf('1/0'),
    secondsOf('0.02 s'),
    secondsOf('1/50'),
  ]).toEqual([null, null, null, null, 0.02, 0.02]);
});

test('what a person types becomes a value of the field’s type, or nothing', () => {
  expect(parseValue('start', '14:22:05:00', rate(25))).toMatchObject({ type: 'timecode' });
  expect(parseValue('start', '14:22:05:25', rate(25))).toBeNull();
  expect(parseValue('start', '14:22:05:00', null)).toBeNull();
  expect(parseValue('rate', '29.97 fps', null)).toEqual({ type: 'rate', rate: rate(30000, 1001) });
  expect(parseValue('shutter', '1/50', null)).toEqual({ type: 'fraction', num: 1, den: 50 });
  expect(parseValue('aperture', 'f/2.8', null)).toEqual({ type: 'number', number: 2.8 });
  expect(parseValue('recordedAt', '2026-05-06 14:22', null)).toMatchObject({
    moment: { local: '2026-05-06T14:22:00' },
  });
  expect(parseValue('slope', '1 1 0.9', null)).toEqual({ type: 'triple', triple: [1, 1, 0.9] });
  expect(parseValue('circled', 'yes', null)).toEqual({ type: 'flag', flag: true });
  expect([
    parseValue('iso', 'many', null),
    parseValue('slope', '1 1', null),
    parseValue('circled', 'perhaps', null),
    parseValue('reel', '  ', null),
  ]).toEqual([null, null, null, null]);
});

test.each([
  ['aperture', '2,8', 2.8],
  ['aperture', 'T 2', 2],
  ['altitude', '0,125', 0.125],
  ['focalLength', '50 mm', 50],
  ['tint', '-4', -4],
  ['iso', '800 ISO', 800],
  ['whiteBalance', '5600K', 5600],
] as const)('a number typed with its unit, or with a comma: %s %s', (id, typed, n) => {
  expect(numberOf(parseValue(id, typed, null)!)).toBe(n);
});

const LONG = '9'.repeat(399);
test.each([
  ['aperture', LONG],
  ['aperture', '2.8.1'],
  ['aperture', '2 8'],
  ['altitude', '1,250 m'],
  ['latitude', `-${LONG}`],
  ['iso', '1e99'],
  ['iso', '1,5'],
  ['frames', '-5'],
  ['frames', LONG],
  ['rate', '0.001'],
  ['rate', '999999999'],
  ['shutter', '0/5'],
  ['shutter', `${LONG}/1`],
  ['shutter', `1/${LONG}`],
  ['slope', `1 1 ${LONG}`],
] as const)('what no clip has is no value, and not another one: %s %s', (id, typed) => {
  expect(parseValue(id, typed, null)).toBeNull();
});

test('values agree as far as sources round', () => {
  expect(sameValue({ type: 'number', number: 2.8 }, { type: 'number', number: 2.8001 })).toBe(true);
  expect(sameValue({ type: 'number', number: 2.8 }, { type: 'number', number: 3 })).toBe(false);
  expect(sameValue({ type: 'fraction', num: 1, den: 50 }, { type: 'fraction', num: 20, den: 1000 })).toBe(
    true,
  );
  expect(sameValue({ type: 'text', text: 'Tarn' }, { type: 'text', text: ' tarn' })).toBe(true);
  expect(sameValue({ type: 'count', count: 1 }, { type: 'number', number: 1 })).toBe(false);
  expect([
    count(new Map(), 'iso'),
    numberIn(new Map(), 'iso'),
    rateOf(new Map()),
    startOf(new Map()),
    text(new Map(), 'model'),
  ]).toEqual([null, null, null, null, null]);
});

test('codes are said in words, the standard’s tags go before the maker’s, codes without words are nothing', () => {
  const tags = {
    LensType: 143,
    Lens: '18 55 3.5 5.6',
    ISO: 2500,
    WhiteBalance: 0,
    NDFilter: 2,
    Make: 'Whimbrel',
  };
  const grouped = {
    'EXIF:ISO': 800,
    'MakerNotes:LensType': 'Whimbrel 18-55mm',
    'MakerNotes:Lens': '18-55mm f/3.5-5.6',
    'EXIF:WhiteBalance': 'Auto',
    'MakerNotes:NDFilter': 'Unknown (2)',
  };
  const f = says(statementsFromTags(withWords(tags, grouped), { zoneMinutes: 0, kind: 'picture' }));
  expect(f).toMatchObject({ iso: '800', lensModel: '18-55mm f/3.5-5.6', whiteBalanceMode: 'Auto' });
  expect(f).not.toHaveProperty('ndFilter');
});

test('a turned still, a size of nothing, a rate that is not the sound’s', () => {
  const f = says(
    statementsFromTags(
      { Orientation: 6, ImageWidth: 0, ImageHeight: 4000, SampleRate: 25 },
      { zoneMinutes: 0, kind: 'picture' },
    ),
  );
  expect(f.rotation).toMatch(/^90/);
  expect(f).not.toHaveProperty('width');
  expect(f).not.toHaveProperty('sampleRate');
});

describe('tags as real files have them', () => {
  const of = (tags: Record<string, unknown>, isRaw = false) =>
    says(statementsFromTags(tags, { zoneMinutes: 0, kind: 'picture', isRaw }));

  test('numbers in quotes are numbers, and words that look like numbers stay words', () => {
    expect(
      of({ ISO: '800', FNumber: '2.8', ExposureTime: '1e-3', Software: '1.00', ImageWidth: '6000' }),
    ).toEqual({
      iso: '800',
      aperture: 'f/2.8',
      shutter: '1/1000 s',
      software: '1.00',
      width: '6000 px',
    });
  });

  test('several values of one tag are all said', () =>
    expect(of({ Artist: ['Wren Ashdown', 'Ilse Brandt'], BitsPerSample: ['8', '8', '8'] })).toEqual({
      operator: 'Wren Ashdown; Ilse Brandt',
      bitDepth: '8 bit',
    }));

  test('zero is no value, garbage is none', () =>
    expect(
      of({
        ISO: 0,
        FNumber: 0,
        FocalLength: '0',
        SubjectDistance: 0,
        ColorTemperature: 0,
        ExposureTime: 2.5e-165,
      }),
    ).toEqual({}));

  test('Exif’s own words and distance go before those of others', () =>
    expect(
      of({ Description: 'in XMP', ImageDescription: 'in Exif', FocusDistance: 2, SubjectDistance: 1 }),
    ).toEqual({ description: 'in Exif', focusDistance: '1 m' }));

  test('a focal length is no full frame’s without the sensor’s size', () => {
    expect(of({ FocalLength35efl: 5.1 })).toEqual({});
    expect(of({ FocalLength35efl: 24, ScaleFactor35efl: 4.7 })).toEqual({ focalLength35: '24 mm' });
  });

  test('the whole picture of a raw still, not its first preview', () =>
    expect(
      of({ ImageSize: '3456 2304', ImageWidth: 1536, ImageHeight: 1024, BitsPerSample: '8 8 8' }, true),
    ).toEqual({
      width: '3456 px',
      height: '2304 px',
    }));

  test('firmware under a maker’s own name, without saying that it is firmware', () => {
    expect(of({ WhimbrelFirmwareVersion: 'Firmware Version 1.10' })).toEqual({ firmware: '1.10' });
    expect(of({ LensFirmwareVersion: '3' })).toEqual({});
  });

  test.each([
    [{ Orientation: '8' }, '270°'],
    [{ Orientation: 6, Rotation: 1 }, '90°'],
    [{ FileType: 'HEIC', Rotation: '3' }, '90°'],
    [{ FileType: 'HEIC', Rotation: '1' }, '270°'],
    [{ FileType: 'MOV', Rotation: '90' }, '90°'],
    [{ FileType: 'JPEG', Rotation: '2' }, undefined],
  ])('the turn of %j', (tags, turn) => expect(of(tags).rotation).toBe(turn));

  test('the depth of a pixel of video is not that of a sample', () =>
    expect(statementsFromTags({ BitDepth: '24' }, { zoneMinutes: 0, kind: 'other' })).toEqual([]));

  test('chroma of a coded still', () =>
    expect(of({ ChromaFormat: 'YUV 4:2:0' })).toEqual({ chroma: '4:2:0' }));
});
