import {
  isReadHere,
  pictureStream,
  type ProbeOutput,
  statementsFromProbe,
  statementsFromTags,
} from '../../core/facts';
import { isRawStill } from '../../core/intake';
import { isCode, messageOf, Unreadable } from '../platform/errors';
import { unreadInWords } from '../platform/files/faults';
import {
  addFurther,
  type ClipOnDisk,
  type FileOnDisk,
  IS_XMP,
  type Reading,
  type ReadOptions,
} from './firstPass';
import { nameOf } from '../platform/media/input';
import { probe } from '../platform/media/probe';
import { readFirst } from './readPool';
import { readTags, TAGS_UNREAD } from './tagReader';

/** Counts up when reading finds more than before: what was read by an older one is read again. */
export const READER = 5;

/** The second pass: asks ffprobe and ExifTool for what the first could not read of that kind of file, and puts it in its place. */
export async function readRest(clip: ClipOnDisk, options: ReadOptions, first: Reading): Promise<Reading> {
  const original = clip.files.find((f) => f.role === 'original');
  if (!original || first.fault !== null) return first;
  const reading: Reading = {
    ...first,
    statements: [...first.statements],
    audio: [...first.audio],
    notes: [...first.notes],
    rest: { probe: false, tags: false },
  };
  try {
    if (first.rest.probe) await probeOriginal(clip, original, options, reading);
  } catch (e) {
    const gone = isCode(e, 'ENOENT');
    const fault = (gone ? null : await isForeign(original)) ?? unreadInWords(nameOf(original.file), e);
    if (fault !== FOREIGN) return { ...reading, fault };
    reading.notes.push(FOREIGN);
  }
  if (first.rest.tags) {
    try {
      const still = clip.kind === 'still' || clip.kind === 'stills';
      const said = statementsFromTags(await readTags(original.file, still), {
        zoneMinutes: options.zoneMinutes,
        kind: still ? 'picture' : 'other',
        isRaw: isRawStill(original.file),
      });
      const have = new Set(reading.statements.filter((s) => s.source === 'tags').map((s) => s.field));
      reading.statements.push(...said.filter((s) => !have.has(s.field)));
    } catch (e) {
      const why = `${nameOf(original.file)}: ${messageOf(e)}`;
      // Of a raw still nothing else is read.
      if (isRawStill(original.file)) return { ...reading, fault: why };
      if (!reading.notes.includes(FOREIGN)) reading.notes.push(why);
    }
  }
  for (const f of clip.files.filter((x) => x.role === 'sidecar' && IS_XMP.test(x.file))) {
    try {
      const tags = await readTags(f.file);
      if (tags.FileType !== 'XMP')
        throw new Unreadable('it is no XMP: what it states is missing here', { file: f.file });
      const said = statementsFromTags(tags, {
        zoneMinutes: options.zoneMinutes,
        kind: 'picture',
        source: 'sidecar',
      });
      const have = new Set(reading.statements.filter((s) => s.source === 'sidecar').map((s) => s.field));
      reading.statements.push(...said.filter((s) => !have.has(s.field)));
    } catch (e) {
      reading.notes.push(`${nameOf(f.file)}: ${messageOf(e)}`);
    }
  }
  return reading;
}

/** What is said of a clip that no decoder of this machine knows. */
export const FOREIGN =
  'It cannot be shown or made a proxy of here: this machine has no decoder for it. It is copied, named and placed like others.';

/**
 * Whether a file that FFmpeg cannot read is of a format that nothing here decodes: `FOREIGN` where it is, the reason where its own
 * tags are damaged, `null` where its format is one that is read here.
 */
async function isForeign(original: FileOnDisk): Promise<string | null> {
  if (isReadHere(original.file)) return null;
  const error = await readTags(original.file).then(
    () => null,
    (e: unknown) => messageOf(e).replace(TAGS_UNREAD, ''),
  );
  // ExifTool does not know every format either; where it does, and finds no such file, the file is damaged.
  return error === null || /unknown file type/i.test(error)
    ? FOREIGN
    : `${nameOf(original.file)} cannot be read: ${error}`;
}

async function probeOriginal(
  clip: ClipOnDisk,
  original: FileOnDisk,
  options: ReadOptions,
  reading: Reading,
): Promise<void> {
  const name = nameOf(original.file);
  const unreadable = (why: string) => new Unreadable(`${name} ${why}`, { file: original.file });
  const { limit } = options;
  const output = await probe(original.file, { limit });
  const still = clip.kind === 'still' || clip.kind === 'stills';
  const said = statementsFromProbe(output, {
    zoneMinutes: options.zoneMinutes,
    modified: new Date(original.modified),
  });
  if (clip.kind === 'sound' ? audioStreams(output).length === 0 : !pictureStream(output))
    throw unreadable(clip.kind === 'sound' ? 'holds no sound' : 'holds no picture');
  if (clip.kind === 'video' && !isDecodable(pictureStream(output)!)) reading.notes.push(FOREIGN);
  // A picture has no length of its own; what its reader takes for one is left out.
  const fresh = still
    ? said.filter(
        (s) =>
          ![
            'rate',
            'frames',
            'baseRate',
            'start',
            'recordedAt',
            'length',
            'bitRate',
            'channels',
            'audioStreams',
            'drop',
          ].includes(s.field),
      )
    : said;
  // What was in the container by the first pass counts: it read the same boxes. ffprobe fills in what was missing.
  const have = new Set(reading.statements.map((s) => `${s.source} ${s.field}`));
  reading.statements.push(
    ...fresh.filter((s) => s.source !== 'fileTime' && !have.has(`${s.source} ${s.field}`)),
  );
  const whenEnded = fresh.find((s) => s.source === 'fileTime');
  if (whenEnded)
    reading.statements = [...reading.statements.filter((s) => s.source !== 'fileTime'), whenEnded];
  if (still) return;
  reading.audio = audioStreams(output);
  for (const f of clip.files.filter((x) => x.role === 'segment' || x.role === 'sound')) {
    const further = await probe(f.file, { limit });
    addFurther(
      reading,
      f.role,
      statementsFromProbe(further, { zoneMinutes: options.zoneMinutes }),
      audioStreams(further),
    );
  }
}

/** Whether FFmpeg knows how a picture is coded. */
const isDecodable = (s: ProbeOutput['streams'][number]): boolean =>
  s.codec_name !== undefined && s.codec_name !== 'none' && s.codec_name !== 'unknown';

export const audioStreams = (p: ProbeOutput): number[] =>
  p.streams.filter((s) => s.codec_type === 'audio').map((s) => s.channels ?? 0);

/** Both passes at once, for what is looked at before it is taken in. */
export async function readStatements(clip: ClipOnDisk, options: ReadOptions): Promise<Reading> {
  const [first] = await readFirst([clip], options);
  return first!.rest.probe || first!.rest.tags ? readRest(clip, options, first!) : first!;
}
