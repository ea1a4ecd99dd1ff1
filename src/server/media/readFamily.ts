import path from 'node:path';
import type { ClipKind, FileRole } from '../../core/cards/shape';
import { decodeText } from '../../core/containers/bytes';
import { readCube, readCdl, statementsFromLook } from '../../core/exchange/looks';
import type { Statement } from '../../core/facts/catalogue';
import type { ContainerSays } from '../../core/facts/container';
import { readFlightLog, statementsFromFlightLog } from '../../core/facts/flightLog';
import { statementsFromName } from '../../core/facts/names';
import { fileMoment, pictureStream, type ProbeOutput, statementsFromProbe } from '../../core/facts/probe';
import { statementsFromSidecar } from '../../core/facts/sidecar';
import { statementsFromTags } from '../../core/facts/tags';
import { rate, type Rate } from '../../core/timecode/rate';
import { isCode, messageOf, Unreadable } from '../errors';
import { probe, readSidecar, sniff } from './probe';
import { readContainers } from './readPool';
import { readTags } from './tagReader';
import { parseXml } from './xml';
import { open } from '../files/onDisk';

export interface FileOnDisk { role: FileRole; file: string; size: number; modified: number }

/** A clip on disk as it is read: its kind, and every file of its family. `cameraPath` is the original's path as the camera gave it. */
export interface ClipOnDisk { kind: ClipKind; files: readonly FileOnDisk[]; cameraPath?: string }

export interface ReadOptions {
  zoneMinutes: number;
  /** Pictures a second that numbered stills are shown at. */
  stillsRate: number;
  /** The rate of the edit, for timecode that does not say what it counts at; 25 where it is not known. */
  jobRate?: Rate | null;
}

/** What was read of a clip. */
export interface Reading {
  statements: Statement[];
  /** Channels of each sound stream of the original. */
  audio: number[];
  /** Why the original cannot be read; `null` where it can. */
  fault: string | null;
  /** What could not be read beside it, each in a sentence. */
  notes: string[];
  /** What the second pass has to ask for. */
  rest: { probe: boolean; tags: boolean };
}

/** Counts up when reading finds more than before: what was read by an older one is read again. */
export const READER = 2;

/**
 * The first pass: containers in process, sidecars, logs, looks and names. `rest` says whether ffprobe or ExifTool have to be
 * asked for more; until ffprobe was, where it has to be, it is not known whether the clip can be read at all.
 */
export async function readFirst(clip: ClipOnDisk, options: ReadOptions): Promise<Reading> {
  const [reading] = await readFirstOf([clip], options);
  return reading!;
}

/** The first pass of several clips, whose containers are read by one thread in a row. */
export async function readFirstOf(clips: readonly ClipOnDisk[], options: ReadOptions): Promise<Reading[]> {
  const inside = clips.map((c) => c.files.filter((f) => (f.role === 'original' || f.role === 'segment' || f.role === 'sound') && c.kind !== 'still' && c.kind !== 'stills').map((f) => f.file));
  const says = await readContainers(inside.flat(), { zoneMinutes: options.zoneMinutes, jobRate: options.jobRate ?? rate(25) });
  const readings: Reading[] = [];
  let at = 0;
  for (const [i, clip] of clips.entries()) {
    const mine = new Map(inside[i]!.map((file) => [file, says[at++]!]));
    readings.push(await firstOf(clip, mine, options));
  }
  return readings;
}

async function firstOf(clip: ClipOnDisk, inside: ReadonlyMap<string, ContainerSays | null | Error>, options: ReadOptions): Promise<Reading> {
  const reading: Reading = { statements: [], audio: [], fault: null, notes: [], rest: { probe: false, tags: false } };
  const original = clip.files.find((f) => f.role === 'original');
  if (original) {
    try {
      await firstOfOriginal(clip, original, inside, options, reading);
    } catch (e) {
      reading.fault = isCode(e, 'ENOENT') ? `${path.basename(original.file)} is not there any more` : messageOf(e);
    }
    if (clip.cameraPath !== undefined) reading.statements.push(...statementsFromName(clip.cameraPath));
  }
  await besides(clip, options, reading);
  return reading;
}

async function firstOfOriginal(clip: ClipOnDisk, original: FileOnDisk, inside: ReadonlyMap<string, ContainerSays | null | Error>, options: ReadOptions, reading: Reading): Promise<void> {
  const name = path.basename(original.file);
  if (clip.kind === 'still' || clip.kind === 'stills') {
    reading.statements.push({ field: 'recordedAt', source: 'fileTime', value: fileMoment(original.modified, options.zoneMinutes) });
    if (clip.kind === 'stills') {
      reading.statements.push({ field: 'rate', value: { type: 'rate', rate: { num: options.stillsRate, den: 1 } }, source: 'person' },
        { field: 'frames', value: { type: 'count', count: clip.files.filter((f) => f.role === 'original' || f.role === 'still').length }, source: 'container' });
    }
    reading.rest = { probe: !/\.(?:dng|raw)$/i.test(name), tags: true };
    return;
  }
  const wrong = clip.kind === 'video' ? await sniff(original.file, original.size) : null;
  if (wrong) throw new Unreadable(`${name} ${wrong.fault}`, { file: original.file });
  const says = inside.get(original.file) ?? null;
  if (says instanceof Error) throw isCode(says, 'ENOENT') ? says : new Unreadable(`${name} cannot be read: ${says.message}`, { file: original.file });
  if (says === null || says.askProbe) {
    reading.statements.push(...(says?.statements ?? []));
    reading.rest = { probe: true, tags: says?.askTags ?? true };
  } else {
    if (clip.kind === 'sound' && says.audio.length === 0) throw new Unreadable(`${name} holds no sound`, { file: original.file });
    reading.statements.push(...says.statements);
    reading.audio.push(...says.audio);
    reading.rest.tags = says.askTags;
  }
  const length = reading.statements.find((s) => s.field === 'length' && s.source === 'container')?.value;
  reading.statements.push({ field: 'recordedAt', source: 'fileTime', value: fileMoment(original.modified - (length?.type === 'number' ? length.number * 1000 : 0), options.zoneMinutes) });
  for (const f of clip.files.filter((x) => x.role === 'segment')) {
    const cut = await sniff(f.file, f.size);
    if (cut) throw new Unreadable(`${name} goes on in ${path.basename(f.file)}, which ${cut.fault}`, { file: original.file });
  }
  if (!reading.rest.probe) {
    const further = clip.files.filter((x) => x.role === 'segment' || x.role === 'sound').map((f) => ({ f, says: inside.get(f.file) }));
    if (further.some((x) => !x.says || x.says instanceof Error || x.says.askProbe)) reading.rest.probe = true;
    else for (const x of further) addFurther(reading, x.f.role, (x.says as ContainerSays).statements, (x.says as ContainerSays).audio);
  }
}

/** Adds a further segment's frames, or the channels of sound that stands apart, to what the original said. */
function addFurther(reading: Reading, role: FileRole, statements: readonly Statement[], audio: readonly number[]): void {
  const add = (field: 'frames' | 'channels' | 'length' | 'audioStreams', by: number) => {
    reading.statements = reading.statements.map((s): Statement =>
      (s.field !== field || s.source !== 'container' ? s
        : s.value.type === 'count' ? { ...s, value: { type: 'count', count: s.value.count + by } }
          : s.value.type === 'number' ? { ...s, value: { type: 'number', number: s.value.number + by } } : s));
  };
  const of = (field: 'frames' | 'length') => {
    const v = statements.find((s) => s.field === field)?.value;
    return v?.type === 'count' ? v.count : v?.type === 'number' ? v.number : 0;
  };
  if (role === 'segment') {
    add('frames', of('frames'));
    add('length', of('length'));
  } else {
    reading.audio.push(...audio);
    add('channels', audio.reduce((n, c) => n + c, 0));
    add('audioStreams', audio.length);
  }
}

/** Text of a file that cannot be large, for logs and lookup tables: its first megabytes. */
async function headOf(file: string, most: number): Promise<string> {
  const handle = await open(file, 'r');
  try {
    const buffer = Buffer.alloc(most);
    const { bytesRead } = await handle.read(buffer, 0, most, 0);
    return decodeText(buffer.subarray(0, bytesRead));
  } finally {
    await handle.close();
  }
}

/** Sidecars, flight logs and looks. One that cannot be read takes nothing from the clip; it is said. */
async function besides(clip: ClipOnDisk, options: ReadOptions, reading: Reading): Promise<void> {
  for (const f of clip.files) {
    const name = path.basename(f.file);
    try {
      if (f.role === 'sidecar' && /\.xml$/i.test(name)) {
        const node = parseXml(await readSidecar(f.file, f.size));
        if (node) reading.statements.push(...statementsFromSidecar(node, options.zoneMinutes));
        else reading.notes.push(`The sidecar ${name} is no XML that can be read: what it says is missing here.`);
      } else if (f.role === 'sidecar' && /\.srt$/i.test(name)) {
        reading.statements.push(...statementsFromFlightLog(readFlightLog(await headOf(f.file, 16 << 20)), options.zoneMinutes));
      } else if (f.role === 'look') {
        const isCube = /\.cube$/i.test(name);
        const text = await headOf(f.file, 1 << 20);
        const node = isCube ? null : parseXml(text);
        const said = statementsFromLook({ cdl: node && readCdl(node), cube: isCube ? readCube(text) : null, name: name.replace(/\.[^.]*$/, '') });
        if (said.length === 0) reading.notes.push(`The look ${name} cannot be read: it is no CDL or lookup table.`);
        reading.statements.push(...said);
      }
    } catch (e) {
      reading.notes.push(isCode(e, 'ENOENT') ? `${name} is not there any more.` : `${name} could not be read: ${messageOf(e)}`);
    }
  }
}

/** The second pass: asks ffprobe and ExifTool for what the first could not read of that kind of file, and puts it in its place. */
export async function readRest(clip: ClipOnDisk, options: ReadOptions, first: Reading): Promise<Reading> {
  const original = clip.files.find((f) => f.role === 'original');
  if (!original || first.fault !== null) return first;
  const reading: Reading = { ...first, statements: [...first.statements], audio: [...first.audio], notes: [...first.notes], rest: { probe: false, tags: false } };
  try {
    if (first.rest.probe) await probeOriginal(clip, original, options, reading);
  } catch (e) {
    return { ...reading, fault: isCode(e, 'ENOENT') ? `${path.basename(original.file)} is not there any more` : messageOf(e) };
  }
  if (first.rest.tags) {
    try {
      const said = statementsFromTags(await readTags(original.file), { zoneMinutes: options.zoneMinutes, kind: clip.kind === 'still' || clip.kind === 'stills' ? 'picture' : 'other' });
      const have = new Set(reading.statements.filter((s) => s.source === 'tags').map((s) => s.field));
      reading.statements.push(...said.filter((s) => !have.has(s.field)));
    } catch (e) {
      reading.notes.push(`${path.basename(original.file)}: ${messageOf(e)}`);
    }
  }
  return reading;
}

async function probeOriginal(clip: ClipOnDisk, original: FileOnDisk, options: ReadOptions, reading: Reading): Promise<void> {
  const name = path.basename(original.file);
  const unreadable = (why: string) => new Unreadable(`${name} ${why}`, { file: original.file });
  const output = await probe(original.file);
  const still = clip.kind === 'still' || clip.kind === 'stills';
  const said = statementsFromProbe(output, { zoneMinutes: options.zoneMinutes, modified: new Date(original.modified) });
  if (clip.kind === 'sound' ? audioStreams(output).length === 0 : !pictureStream(output)) throw unreadable(clip.kind === 'sound' ? 'holds no sound' : 'holds no picture');
  // A picture has no length of its own; what its reader takes for one is left out.
  const fresh = still ? said.filter((s) => !['rate', 'frames', 'baseRate', 'start', 'recordedAt', 'length', 'bitRate', 'channels', 'audioStreams', 'drop'].includes(s.field)) : said;
  // What stood in the container by the first pass counts: it read the same boxes. ffprobe fills in what was missing.
  const have = new Set(reading.statements.map((s) => `${s.source} ${s.field}`));
  reading.statements.push(...fresh.filter((s) => s.source !== 'fileTime' && !have.has(`${s.source} ${s.field}`)));
  const whenEnded = fresh.find((s) => s.source === 'fileTime');
  if (whenEnded) reading.statements = [...reading.statements.filter((s) => s.source !== 'fileTime'), whenEnded];
  if (still) return;
  reading.audio = audioStreams(output);
  for (const f of clip.files.filter((x) => x.role === 'segment' || x.role === 'sound')) {
    const further = await probe(f.file);
    addFurther(reading, f.role, statementsFromProbe(further, { zoneMinutes: options.zoneMinutes }), audioStreams(further));
  }
}

export const audioStreams = (p: ProbeOutput): number[] => p.streams.filter((s) => s.codec_type === 'audio').map((s) => s.channels ?? 0);

/** Both passes at once, for what is looked at before it is taken in. */
export async function readStatements(clip: ClipOnDisk, options: ReadOptions): Promise<Reading> {
  const first = await readFirst(clip, options);
  return first.rest.probe || first.rest.tags ? readRest(clip, options, first) : first;
}
