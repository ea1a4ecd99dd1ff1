import { type Rate, rate } from '../core/timecode/rate';
import { formatTimecode, fromTimeOfDay, type Timecode } from '../core/timecode/timecode';

/** How a clip's picture is coded. */
export type Coding = 'h264-420-8' | 'h264-422-10' | 'hevc-420-8' | 'hevc-422-10' | 'vc3-422-10';

/** One clip of the made-up production. Paths are below the card's folder. */
export interface DemoClip {
  name: string;
  path: string;
  coding: Coding;
  rate: Rate;
  /** Length in frames. */
  frames: number;
  /** Local start of the recording, "2026-05-05T09:12:00"; the job's zone is UTC. */
  recordedAt: string;
  start: Timecode;
  size: { width: number; height: number };
  /** Audio streams, as channels of each. */
  audio: readonly number[];
  fullRange: boolean;
  /** Where the camera-made proxy stands; `null` where the camera made none. */
  proxyPath: string | null;
  sidecarPath: string | null;
  lookPath: string | null;
  /** A rewrap lost the timecode track's start: it says zero, the sidecar still knows. */
  timecodeLost: boolean;
}

export interface DemoCard {
  camera: 'A' | 'B';
  model: string;
  id: string;
  day: number;
  /** Folder of the card below the offload folder. */
  folder: string;
  clips: DemoClip[];
}

export const JOB = {
  name: 'Slack Water', code: 'SLW',
  cameras: [{ letter: 'A', model: 'Corvane C8' }, { letter: 'B', model: 'Tarn T5' }],
};

type Row = readonly [time: string, fps: number, seconds: number, coding: Coding, hd?: 'hd'];

const A001: readonly Row[] = [
  ['07:48:10', 25, 3, 'hevc-422-10'], ['09:31:44', 25, 2, 'hevc-420-8'], ['12:05:02', 25, 3, 'vc3-422-10'], ['17:40:27', 25, 4, 'h264-422-10', 'hd'],
];

const B001: readonly Row[] = [
  ['08:02:15', 25, 4, 'h264-420-8'], ['08:40:51', 50, 2, 'h264-420-8'], ['09:33:08', 25, 2, 'hevc-420-8'], ['10:12:30', 100, 1.2, 'h264-420-8'],
  ['11:04:05', 25, 3, 'h264-422-10'], ['12:07:40', 50, 1.5, 'h264-420-8'], ['13:55:12', 25, 4, 'h264-420-8', 'hd'], ['14:22:05', 100, 1, 'hevc-422-10'],
  ['15:48:33', 25, 2, 'h264-420-8'], ['17:41:02', 50, 1, 'h264-422-10'], ['19:20:56', 25, 6, 'h264-420-8'],
];

const B002: readonly Row[] = [
  ['06:51:20', 25, 3, 'h264-420-8'], ['07:30:02', 50, 2, 'h264-420-8'], ['08:15:47', 25, 2, 'hevc-422-10'], ['09:02:11', 100, 1, 'h264-420-8'],
  ['10:44:39', 25, 4, 'h264-420-8', 'hd'], ['11:58:03', 50, 1.5, 'h264-420-8'], ['13:20:18', 25, 2, 'h264-422-10'], ['14:22:05', 25, 3, 'hevc-420-8'],
  ['16:10:54', 100, 1.2, 'h264-422-10'], ['18:33:29', 25, 4, 'h264-420-8'],
];

const clock = (time: string): number => time.split(':').reduce((s, part) => s * 60 + Number(part), 0);

function clip(date: string, [time, fps, seconds, coding, hd]: Row): Omit<DemoClip, 'name' | 'path' | 'proxyPath' | 'sidecarPath' | 'lookPath' | 'audio' | 'fullRange' | 'timecodeLost'> {
  const r = rate(fps);
  return {
    coding, rate: r, frames: fps * seconds, recordedAt: `${date}T${time}`, start: fromTimeOfDay(clock(time), r),
    size: hd ? { width: 1920, height: 1080 } : { width: 1280, height: 720 },
  };
}

function cardOfB(id: string, day: number, date: string, rows: readonly Row[], plan: { skip: number; lost: number | null; doubled: number | null }): DemoCard {
  const clips = rows.map((row, i): DemoClip => {
    // A gap in the counter: from `skip` on, numbers are one higher.
    const number = i + 1 + (plan.skip > 0 && i + 1 >= plan.skip ? 1 : 0);
    const name = `T${String(number).padStart(4, '0')}`;
    return {
      ...clip(date, row), name, path: `CLIP/${name}.MP4`, audio: [2], fullRange: false, sidecarPath: `CLIP/${name}.XML`, lookPath: null,
      proxyPath: row[1] === 100 ? null : `SUB/${name}_px.MP4${number === plan.doubled ? '.MP4' : ''}`, timecodeLost: number === plan.lost,
    };
  });
  return { camera: 'B', model: 'Tarn T5', id, day, folder: `Day ${day}/${id}`, clips };
}

/** The cards of this version's demo, in the order they were shot. */
export const CARDS: readonly DemoCard[] = [
  {
    camera: 'A', model: 'Corvane C8', id: 'A001', day: 1, folder: 'Day 1/A001',
    clips: A001.map((row, i): DemoClip => {
      const name = `A001_C${String(i + 1).padStart(3, '0')}`;
      const path = `${name}/${name}.${row[3] === 'vc3-422-10' ? 'MXF' : 'MOV'}`;
      return {
        ...clip('2026-05-05', row), name, path, audio: [1, 1, 1, 1], fullRange: i === 0, sidecarPath: null,
        lookPath: `${name}/${name}.cdl`, proxyPath: null, timecodeLost: false,
      };
    }),
  },
  cardOfB('B001', 1, '2026-05-05', B001, { skip: 0, lost: null, doubled: null }),
  cardOfB('B002', 2, '2026-05-06', B002, { skip: 6, lost: 9, doubled: 3 }),
];

/** The sidecar that camera B writes: device, date, and a timecode table, frames first. */
export function sidecarXml(c: DemoClip): string {
  const digits = (tc: Timecode) => formatTimecode(tc).split(/[:;]/).reverse().join('');
  return `<?xml version="1.0" encoding="UTF-8"?>
<ClipRecord xmlns="urn:example:tarn:clip:1">
  <Duration value="${c.frames}"/>
  <CreationDate value="${c.recordedAt}+00:00"/>
  <TimecodeTable tcFps="${c.rate.num}" dropFrame="false">
    <Entry frameCount="0" value="${digits(c.start)}"/>
  </TimecodeTable>
  <Device manufacturer="Tarn" modelName="Tarn T5" serialNo="T5-00417"/>
</ClipRecord>
`;
}

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
