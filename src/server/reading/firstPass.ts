import { type ClipKind, type FileRole, isRawStill } from '../../core/intake';
import {
  decodeText,
  kindOf,
  noKind,
  NO_KIND_KNOWN,
  readCdl,
  readCube,
  statementsFromLook,
  type Statement,
  type ContainerSays,
  readFlightLog,
  statementsFromFlightLog,
  statementsFromName,
  fileMoment,
  statementsFromSidecar,
} from '../../core/facts';
import type { DiskPath } from '../../core/platform/names';
import { rate, type Rate } from '../../core/platform/timecode/rate';
import { asError, Unreadable } from '../platform/errors';
import { unreadInWords } from '../platform/files/faults';
import { readPlain } from '../platform/files/plainFile';
import { readContainer } from './container';
import { nameOf } from '../platform/media/input';
import { headOnDisk, readSidecar, sniff } from '../platform/media/probe';
import { parseXml } from '../platform/media/xml';

// Runs in reading threads: what a damaged or hostile file makes a reader do never holds up the interface, and can be ended.

export interface FileOnDisk {
  role: FileRole;
  file: DiskPath;
  size: number;
  modified: number;
}

/** A clip on disk as it is read: its kind, and every file of its family. `cameraPath` is the original's path as the camera gave it. */
export interface ClipOnDisk {
  kind: ClipKind;
  files: readonly FileOnDisk[];
  cameraPath?: string;
}

export interface ReadOptions {
  zoneMinutes: number;
  /** Pictures a second that numbered stills are shown at. */
  stillsRate: number;
  /** The rate of the edit, for timecode that does not say what it counts at; 25 where it is not known. */
  jobRate?: Rate | null;
  /** Milliseconds that ffprobe may take for each file, where somebody waits. */
  limit?: number;
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

/**
 * The first pass: containers in process, sidecars, logs, looks and names. `rest` says whether ffprobe or ExifTool have to be
 * asked for more; until ffprobe was, where it has to be, it is not known whether the clip can be read at all.
 */
export async function firstPass(clip: ClipOnDisk, options: ReadOptions): Promise<Reading> {
  const inside = new Map<string, ContainerSays | null | Error>();
  for (const f of clip.files) {
    if (
      (f.role === 'original' || f.role === 'segment' || f.role === 'sound') &&
      clip.kind !== 'still' &&
      clip.kind !== 'stills'
    ) {
      inside.set(
        f.file,
        await readContainer(f.file, {
          zoneMinutes: options.zoneMinutes,
          jobRate: options.jobRate ?? rate(25),
        }).catch(asError),
      );
    }
  }
  const reading: Reading = {
    statements: [],
    audio: [],
    fault: null,
    notes: [],
    rest: { probe: false, tags: false },
  };
  const original = clip.files.find((f) => f.role === 'original');
  if (original) {
    try {
      await firstOfOriginal(clip, original, inside, options, reading);
    } catch (e) {
      reading.fault = unreadInWords(nameOf(original.file), e);
    }
    if (clip.cameraPath !== undefined) reading.statements.push(...statementsFromName(clip.cameraPath));
  }
  await besides(clip, options, reading);
  return reading;
}

async function firstOfOriginal(
  clip: ClipOnDisk,
  original: FileOnDisk,
  inside: ReadonlyMap<string, ContainerSays | null | Error>,
  options: ReadOptions,
  reading: Reading,
): Promise<void> {
  const name = nameOf(original.file);
  if (clip.kind === 'still' || clip.kind === 'stills') {
    if (isRawStill(name)) await refuseWords(original, name);
    reading.statements.push({
      field: 'recordedAt',
      source: 'fileTime',
      value: fileMoment(original.modified, options.zoneMinutes),
    });
    if (clip.kind === 'stills') {
      reading.statements.push(
        {
          field: 'rate',
          value: { type: 'rate', rate: { num: options.stillsRate, den: 1 } },
          source: 'setting',
        },
        {
          field: 'frames',
          value: {
            type: 'count',
            count: clip.files.filter((f) => f.role === 'original' || f.role === 'still').length,
          },
          source: 'container',
        },
      );
    }
    // The first picture in a raw still is a small one: what it is of is in its tags.
    reading.rest = { probe: !isRawStill(name), tags: true };
    return;
  }
  const wrong = clip.kind === 'video' ? await sniff(original.file, original.size) : null;
  if (wrong) throw new Unreadable(`${name} ${wrong.fault}`, { file: original.file });
  const says = inside.get(original.file) ?? null;
  if (says instanceof Error) throw says;
  if (says === null || says.askProbe) {
    reading.statements.push(...(says?.statements ?? []));
    reading.rest = { probe: true, tags: says?.askTags ?? true };
  } else {
    if (clip.kind === 'sound' && says.audio.length === 0)
      throw new Unreadable(`${name} holds no sound`, { file: original.file });
    reading.statements.push(...says.statements);
    reading.audio.push(...says.audio);
    reading.rest.tags = says.askTags;
  }
  const length = reading.statements.find((s) => s.field === 'length' && s.source === 'container')?.value;
  reading.statements.push({
    field: 'recordedAt',
    source: 'fileTime',
    value: fileMoment(
      original.modified - (length?.type === 'number' ? length.number * 1000 : 0),
      options.zoneMinutes,
    ),
  });
  for (const f of clip.files.filter((x) => x.role === 'segment')) {
    const cut = await sniff(f.file, f.size);
    if (cut)
      throw new Unreadable(`${name} goes on in ${nameOf(f.file)}, which ${cut.fault}`, {
        file: original.file,
      });
  }
  if (!reading.rest.probe) {
    const further = clip.files
      .filter((x) => x.role === 'segment' || x.role === 'sound')
      .map((f) => ({ f, says: inside.get(f.file) }));
    if (further.some((x) => !x.says || x.says instanceof Error || x.says.askProbe)) reading.rest.probe = true;
    else
      for (const x of further)
        addFurther(reading, x.f.role, (x.says as ContainerSays).statements, (x.says as ContainerSays).audio);
  }
}

/** A sidecar of XMP (ISO 16684-1): ExifTool reads it. */
export const IS_XMP = /\.xmp$/i;

/** Throws Unreadable where a file begins with words or with nothing: no raw still does, though each of their formats is laid out in its own way. */
async function refuseWords(original: FileOnDisk, name: string): Promise<void> {
  const head = await headOnDisk(original.file);
  const why = kindOf(head) ? null : noKind(head);
  if (why !== null && why !== NO_KIND_KNOWN)
    throw new Unreadable(`${name} ${why}, whatever its name says`, { file: original.file });
}

/** Adds a further segment's frames, or the channels of sound that is apart, to what the original said. */
export function addFurther(
  reading: Reading,
  role: FileRole,
  statements: readonly Statement[],
  audio: readonly number[],
): void {
  const add = (field: 'frames' | 'channels' | 'length' | 'audioStreams', by: number) => {
    reading.statements = reading.statements.map((s): Statement =>
      s.field !== field || s.source !== 'container'
        ? s
        : s.value.type === 'count'
          ? { ...s, value: { type: 'count', count: s.value.count + by } }
          : s.value.type === 'number'
            ? { ...s, value: { type: 'number', number: s.value.number + by } }
            : s,
    );
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
    add(
      'channels',
      audio.reduce((n, c) => n + c, 0),
    );
    add('audioStreams', audio.length);
  }
}

/** Sidecars, flight logs and looks. One that cannot be read takes nothing from the clip; it is said. */
async function besides(clip: ClipOnDisk, options: ReadOptions, reading: Reading): Promise<void> {
  for (const f of clip.files) {
    const name = nameOf(f.file);
    try {
      if (f.role === 'sidecar' && /\.xml$/i.test(name)) {
        const node = parseXml(await readSidecar(f.file, f.size));
        if (node) reading.statements.push(...statementsFromSidecar(node, options.zoneMinutes));
        else reading.notes.push(`The sidecar ${name} is not valid XML: what it states is missing here.`);
      } else if (f.role === 'sidecar' && IS_XMP.test(name)) {
        reading.rest.tags = true;
      } else if (f.role === 'sidecar' && /\.srt$/i.test(name)) {
        reading.statements.push(
          ...statementsFromFlightLog(
            readFlightLog(decodeText(await readPlain(f.file, 16 << 20))),
            options.zoneMinutes,
          ),
        );
      } else if (f.role === 'look') {
        const isCube = /\.cube$/i.test(name);
        const text = decodeText(await readPlain(f.file, 1 << 20));
        const node = isCube ? null : parseXml(text);
        const said = statementsFromLook({
          cdl: node && readCdl(node),
          cube: isCube ? readCube(text) : null,
          name: name.replace(/\.[^.]*$/, ''),
        });
        if (said.length === 0)
          reading.notes.push(`The look ${name} cannot be read: it is not a CDL or lookup table.`);
        reading.statements.push(...said);
      }
    } catch (e) {
      reading.notes.push(unreadInWords(name, e).replace(/\.?$/, '.'));
    }
  }
}
