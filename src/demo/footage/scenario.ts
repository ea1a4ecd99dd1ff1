import { fps, type Rate, rate } from '../../core/platform/timecode/rate';
import { formatTimecode, fromTimeOfDay, type Timecode } from '../../core/platform/timecode/timecode';

/** How a clip's picture is coded. */
export type Coding = 'h264-420-8' | 'h264-422-10' | 'hevc-420-8' | 'hevc-422-10' | 'vc3-422-10';

/** One video file of the made-up production. Paths are below the card's folder. */
export interface DemoClip {
  name: string;
  path: string;
  coding: Coding;
  rate: Rate;
  /** Length in frames. */
  frames: number;
  /** Local start of the recording by the camera's clock, "2026-05-05T09:12:00"; the job's zone is UTC. */
  recordedAt: string;
  start: Timecode;
  size: { width: number; height: number };
  /** Audio streams, as channels of each. */
  audio: readonly number[];
  fullRange: boolean;
  /** Where the camera-made proxy is; `null` where the camera made none. */
  proxyPath: string | null;
  sidecarPath: string | null;
  lookPath: string | null;
  thumbnailPath: string | null;
  /** The flight log, a subtitle for every second. */
  flightLogPath: string | null;
  /** A rewrap lost the timecode track's start: it says zero, the sidecar still knows. */
  timecodeLost: boolean;
  /** A file of a take too long for one is filled up to the card's limit, so many bytes; `null` elsewhere. */
  fillTo: number | null;
  /** Share of the file that is there where its copying was cut short; 1 for all. */
  whole: number;
}

/** One sound recording, all channels in one file. */
export interface DemoSound {
  name: string;
  path: string;
  seconds: number;
  channels: number;
  recordedAt: string;
  /** Seconds since midnight of its first sample. */
  startSeconds: number;
  /** From and to, seconds, where nothing is heard; `null` where there is no such place. */
  silence: readonly [number, number] | null;
}

/** A row of numbered stills. */
export interface DemoStills {
  /** Path of a still by its number. */
  path: (number: number) => string;
  from: number;
  count: number;
  missing: number;
  /** Of the first, and seconds from one to the next. */
  recordedAt: string;
  every: number;
}

export interface DemoCard {
  camera: 'A' | 'B' | 'C' | 'D' | 'S';
  model: string;
  id: string;
  day: number;
  /** Folder of the card below the folder it is made in. */
  folder: string;
  clips: DemoClip[];
  sounds: DemoSound[];
  stills: DemoStills | null;
}

export const JOB = {
  name: 'Slack Water',
  code: 'SLW',
  cameras: [
    { label: 'A', model: 'Corvane C8' },
    { label: 'B', model: 'Tarn T5' },
    { label: 'C', model: 'Skerry One' },
    { label: 'D', model: 'Whimbrel' },
    { label: 'S', model: 'Lintel R4' },
  ],
};

type Row = readonly [time: string, fps: number, seconds: number, coding: Coding, hd?: 'hd'];

const A001: readonly Row[] = [
  ['07:48:10', 25, 3, 'hevc-422-10'],
  ['09:31:44', 25, 2, 'hevc-420-8'],
  ['12:05:02', 25, 3, 'vc3-422-10'],
  ['17:40:27', 25, 4, 'h264-422-10', 'hd'],
];

const B001: readonly Row[] = [
  ['08:02:15', 25, 4, 'h264-420-8'],
  ['08:40:51', 50, 2, 'h264-420-8'],
  ['09:33:08', 25, 2, 'hevc-420-8'],
  ['10:12:30', 100, 1.2, 'h264-420-8'],
  ['11:04:05', 25, 3, 'h264-422-10'],
  ['12:07:40', 50, 1.5, 'h264-420-8'],
  ['13:55:12', 25, 4, 'h264-420-8', 'hd'],
  ['14:22:05', 100, 1, 'hevc-422-10'],
  ['15:48:33', 25, 2, 'h264-420-8'],
  ['17:41:02', 50, 1, 'h264-422-10'],
  ['19:20:56', 25, 6, 'h264-420-8'],
];

const B002: readonly Row[] = [
  ['06:51:20', 25, 3, 'h264-420-8'],
  ['07:30:02', 50, 2, 'h264-420-8'],
  ['08:15:47', 25, 2, 'hevc-422-10'],
  ['09:02:11', 100, 1, 'h264-420-8'],
  ['10:44:39', 25, 4, 'h264-420-8', 'hd'],
  ['11:58:03', 50, 1.5, 'h264-420-8'],
  ['13:20:18', 25, 2, 'h264-422-10'],
  ['14:22:05', 25, 3, 'hevc-420-8'],
  ['16:10:54', 100, 1.2, 'h264-422-10'],
  ['18:33:29', 25, 4, 'h264-420-8'],
];

const B003: readonly Row[] = [
  ['07:12:40', 25, 2, 'h264-420-8'],
  ['08:44:09', 50, 1, 'h264-420-8'],
  ['09:58:31', 100, 0.6, 'h264-420-8'],
  ['11:20:16', 25, 2, 'hevc-420-8'],
  ['15:02:50', 25, 3, 'h264-420-8'],
];

const clock = (time: string): number => time.split(':').reduce((s, part) => s * 60 + Number(part), 0);
const later = (time: string, seconds: number): string =>
  new Date((clock(time) + seconds) * 1000).toISOString().slice(11, 19);

/** What a row says, and what is so of most clips. */
function clip(date: string, [time, fps, seconds, coding, hd]: Row): Omit<DemoClip, 'name' | 'path'> {
  const r = rate(fps);
  return {
    coding,
    rate: r,
    frames: fps * seconds,
    recordedAt: `${date}T${time}`,
    start: fromTimeOfDay(clock(time), r),
    size: hd ? { width: 1920, height: 1080 } : { width: 1280, height: 720 },
    audio: [2],
    fullRange: false,
    proxyPath: null,
    sidecarPath: null,
    lookPath: null,
    thumbnailPath: null,
    flightLogPath: null,
    timecodeLost: false,
    fillTo: null,
    whole: 1,
  };
}

interface PlanOfB {
  folder: string;
  skip: number;
  lost: number | null;
  doubled: number | null;
}

function cardOfB(id: string, day: number, date: string, rows: readonly Row[], plan: PlanOfB): DemoCard {
  const clips = rows.map((row, i): DemoClip => {
    // A gap in the counter: from `skip` on, numbers are one higher.
    const number = i + 1 + (plan.skip > 0 && i + 1 >= plan.skip ? 1 : 0);
    const name = `T${String(number).padStart(4, '0')}`;
    return {
      ...clip(date, row),
      name,
      path: `CLIP/${name}.MP4`,
      sidecarPath: `CLIP/${name}.XML`,
      proxyPath: row[1] === 100 ? null : `SUB/${name}_px.MP4${number === plan.doubled ? '.MP4' : ''}`,
      timecodeLost: number === plan.lost,
    };
  });
  return { camera: 'B', model: 'Tarn T5', id, day, folder: plan.folder, clips, sounds: [], stills: null };
}

const ofA = (date: string, row: Row, name: string, extra: Partial<DemoClip> = {}): DemoClip => ({
  ...clip(date, row),
  name,
  path: `${name}/${name}.${row[3] === 'vc3-422-10' ? 'MXF' : 'MOV'}`,
  audio: [1, 1, 1, 1],
  lookPath: `${name}/${name}.cdl`,
  ...extra,
});

/** The cards that were offloaded before the demo begins, in the order they were shot. */
export const CARDS: readonly DemoCard[] = [
  {
    camera: 'A',
    model: 'Corvane C8',
    id: 'A001',
    day: 1,
    folder: 'Day 1/A001',
    sounds: [],
    stills: null,
    clips: A001.map((row, i) =>
      ofA('2026-05-05', row, `A001_C${String(i + 1).padStart(3, '0')}`, { fullRange: i === 0 }),
    ),
  },
  cardOfB('B001', 1, '2026-05-05', B001, { folder: 'Day 1/B001', skip: 0, lost: null, doubled: null }),
  cardOfB('B002', 2, '2026-05-06', B002, { folder: 'Day 2/B002', skip: 6, lost: 9, doubled: 3 }),
];

/** A long take of camera A: three segments of one folder, each going on where the last one ends. */
const LONG_TAKE: DemoClip[] = [1, 2, 3].map((n): DemoClip => {
  const whole = ofA('2026-05-06', [later('09:20:00', (n - 1) * 2), 25, 2, 'h264-422-10'], 'A002_C001');
  return {
    ...whole,
    name: `A002_C001_00${n}`,
    path: `A002_C001/A002_C001_00${n}.MOV`,
    lookPath: n === 1 ? whole.lookPath : null,
  };
});

/** Where camera C ends a file, bytes. */
const LIMIT_OF_C = 1_200_000;
/** Camera C's clock is an hour slow: what it says is one hour before the time of day. */
const CHAPTERS: DemoClip[] = (['09:44:38', '09:44:39', '09:44:40', '12:20:17'] as const).map(
  (time, i): DemoClip => {
    const name = `SKRY000${i + 1}`;
    return {
      ...clip('2026-05-06', [time, 50, 1, 'h264-420-8']),
      name,
      path: `DCIM/100SKRRY/${name}.MP4`,
      thumbnailPath: `DCIM/100SKRRY/${name}.THM`,
      fillTo: i < 2 ? LIMIT_OF_C : null,
    };
  },
);

const FLIGHTS: DemoClip[] = (['06:30:12', '06:41:50', '19:05:07'] as const).map((time, i): DemoClip => {
  const r = rate(30000, 1001);
  const name = `WHIM00${31 + i}`;
  return {
    ...clip('2026-05-07', [time, 25, 2, 'h264-420-8']),
    rate: r,
    frames: 60,
    start: fromTimeOfDay(clock(time), r, true),
    name,
    path: `DCIM/101WHIMB/${name}.MP4`,
    audio: [],
    flightLogPath: `DCIM/101WHIMB/${name}.SRT`,
  };
});

function cardOfS(
  id: string,
  day: number,
  date: string,
  rows: readonly (readonly [time: string, seconds: number])[],
  silent: number | null,
): DemoCard {
  const sounds = rows.map(([time, seconds], i): DemoSound => {
    const name = `${date.slice(2).replace(/-/g, '')}-T${String(i + 1).padStart(2, '0')}`;
    return {
      name,
      path: `${name}.WAV`,
      seconds,
      channels: 4,
      recordedAt: `${date}T${time}`,
      startSeconds: clock(time),
      silence: i === silent ? [2, 9] : null,
    };
  });
  return { camera: 'S', model: 'Lintel R4', id, day, folder: id, clips: [], sounds, stills: null };
}

/** The cards that lie in the drawer beside the card reader. */
export const DRAWER: readonly DemoCard[] = [
  {
    camera: 'A',
    model: 'Corvane C8',
    id: 'A002',
    day: 2,
    folder: 'A002',
    sounds: [],
    stills: null,
    clips: [
      ...LONG_TAKE,
      ofA('2026-05-06', ['10:44:41', 25, 2, 'hevc-422-10'], 'A002_C002'),
      ofA('2026-05-06', ['14:05:20', 25, 2, 'h264-422-10'], 'A002_C003', { whole: 0.6 }),
    ],
  },
  cardOfB('B003', 3, '2026-05-07', B003, { folder: 'B003', skip: 4, lost: null, doubled: null }),
  {
    camera: 'C',
    model: 'Skerry One',
    id: 'C001',
    day: 2,
    folder: 'C001',
    clips: CHAPTERS,
    sounds: [],
    stills: null,
  },
  {
    camera: 'D',
    model: 'Whimbrel',
    id: 'D001',
    day: 3,
    folder: 'D001',
    clips: FLIGHTS,
    sounds: [],
    stills: {
      path: (n) => `DCIM/101WHIMB/WHIM${String(n).padStart(4, '0')}.JPG`,
      from: 101,
      count: 24,
      missing: 112,
      recordedAt: '2026-05-07T20:10:00',
      every: 5,
    },
  },
  cardOfS(
    'S001',
    1,
    '2026-05-05',
    [
      ['08:02:13', 6],
      ['14:22:03', 4],
    ],
    null,
  ),
  cardOfS(
    'S002',
    2,
    '2026-05-06',
    [
      ['09:19:58', 8],
      ['13:20:16', 12],
    ],
    1,
  ),
  cardOfS('S003', 3, '2026-05-07', [['09:58:29', 4]], null),
];

/** A card of the drawer that is another one offered twice, under a name that says nothing. */
export const TWIN = { of: 'Day 1/B001', folder: 'UNTITLED' };

/** Camera D's flight log: one subtitle a second, with height, place and exposure. */
export function flightLog(c: DemoClip): string {
  const at = (s: number) => `00:00:${String(s).padStart(2, '0')},000`;
  return Array.from(
    { length: Math.ceil(c.frames / fps(c.rate)) },
    (_, s) =>
      `${s + 1}\n${at(s)} --> ${at(s + 1)}\nlat 12.3456${s} lon -32.1000${s} height ${(31 + s * 0.8).toFixed(1)} m iso 100 shutter 1/60 f 2.8 ${c.recordedAt.slice(0, 10)} ${later(c.recordedAt.slice(11), s)}\n`,
  ).join('\n');
}

const FOCAL = [24, 35, 50, 85];

/** The sidecar that camera B writes: device, lens, exposure, date, and a timecode table, frames first. */
export function sidecarXml(c: DemoClip): string {
  const digits = (tc: Timecode) => formatTimecode(tc).split(/[:;]/).reverse().join('');
  return `<?xml version="1.0" encoding="UTF-8"?>
<ClipRecord xmlns="urn:example:tarn:clip:1">
  <Duration value="${c.frames}"/>
  <CreationDate value="${c.recordedAt}+00:00"/>
  <TimecodeTable tcFps="${c.rate.num}" dropFrame="false">
    <Entry frameCount="0" value="${digits(c.start)}"/>
  </TimecodeTable>
  <Picture captureFps="${c.rate.num}" formatFps="25"/>
  <Device manufacturer="Tarn" modelName="Tarn T5" serialNo="T5-00417" firmware="2.4"/>
  <Lens model="Tarn Prime" focalLengthMm="${FOCAL[c.frames % FOCAL.length]}" aperture="${c.rate.num === 100 ? '2.8' : '4.0'}"/>
  <Exposure iso="${c.rate.num * 16}" shutter="1/${c.rate.num * 2}" whiteBalance="5600"/>
  <Gamma curve="T-Log" gamut="T-Wide"/>
</ClipRecord>
`;
}

/** What the recorder of camera S says of a recording in its iXML chunk. */
export const ixmlOf = (sound: DemoSound, index: number): string => `<?xml version="1.0" encoding="UTF-8"?>
<BWFXML>
  <IXML_VERSION>1.61</IXML_VERSION>
  <PROJECT>Slack Water</PROJECT><SCENE>${index + 3}</SCENE><TAKE>${index + 1}</TAKE><TAPE>${sound.recordedAt.slice(2, 10).replaceAll('-', '')}</TAPE><CIRCLED>${index === 0 ? 'TRUE' : 'FALSE'}</CIRCLED>
  <NOTE>wheel &amp; sluice</NOTE>
  <SPEED><TIMECODE_RATE>25/1</TIMECODE_RATE><TIMECODE_FLAG>NDF</TIMECODE_FLAG></SPEED>
  <TRACK_LIST><TRACK_COUNT>${sound.channels}</TRACK_COUNT>${['Boom', 'Miller', 'Wheel', 'Sluice']
    .slice(0, sound.channels)
    .map((n, i) => `<TRACK><CHANNEL_INDEX>${i + 1}</CHANNEL_INDEX><NAME>${n}</NAME></TRACK>`)
    .join('')}</TRACK_LIST>
</BWFXML>
`;

/** The look that camera A writes: an ASC CDL with a gentle warm grade that differs from clip to clip. */
export function lookXml(c: DemoClip, i: number): string {
  return `<?xml version="1.0" encoding="UTF-8"?>
<ColorDecisionList xmlns="urn:ASC:CDL:v1.01">
  <ColorDecision>
    <ColorCorrection id="${c.name}">
      <SOPNode>
        <Slope>1.0${i + 2} 1.00 0.9${i + 3}</Slope>
        <Offset>0.01 0.00 -0.01</Offset>
        <Power>1.00 1.00 1.02</Power>
      </SOPNode>
      <SatNode><Saturation>0.9${i}</Saturation></SatNode>
    </ColorCorrection>
  </ColorDecision>
</ColorDecisionList>
`;
}
