import { DefaultExiftoolArgs, ExifTool, exiftoolPath } from 'exiftool-vendored';
import type { DiskPath } from '../../core/platform/names';
import { BY_STANDARD, IN_WORDS, TagOutput, withWords } from '../../core/facts';
import { messageOf, Unreadable } from '../platform/errors';
import { joinPath } from '../platform/files/names';
import { withPlainNames } from '../platform/media/input';
import { limited } from '../platform/media/tools';

export const TAGS_UNREAD = 'its camera tags could not be read: ';

/** ExifTool is kept running: starting it costs half a second. One that does not answer in time is ended and started anew. */
export const tagLimits = { milliseconds: 20_000, restart: endTagReader };

let tool: Promise<ExifTool> | null = null;

async function start(): Promise<ExifTool> {
  const program = await exiftoolPath();
  const [command, args] = limited(program, DefaultExiftoolArgs);
  return new ExifTool({
    maxProcs: 2,
    taskTimeoutMillis: tagLimits.milliseconds,
    taskRetries: 0,
    maxTasksPerProcess: 2000,
    spawnTimeoutMillis: 30_000,
    ...(command === program
      ? {}
      : { exiftoolPath: command, exiftoolArgs: args, ignoreShebang: false, checkPerl: false }),
  });
}

const plainName = (file: DiskPath) => () => `file${/\.[A-Za-z0-9]{1,8}$/.exec(file)?.[0] ?? ''}`;

/** Quoted numbers, so that "1.00" stays what it says; all places that tags are in, not only those that guidelines allow. */
const ASKED = { plain: ['-json', '-api', 'StructFormat=JSONQ'], all: { useMWG: false } };

/**
 * What ExifTool finds in a file, numbers without units. `toEnd` has it look behind the pictures of a still too. Throws Unreadable with its reason, also where it takes too long or dies; the next
 * file is read all the same. It is told files line by line, and so is given each under a plain name.
 */
export async function readTags(file: DiskPath, toEnd = false): Promise<TagOutput> {
  const plain = [...ASKED.plain, ...(toEnd ? [] : ['-fast'])];
  try {
    return await withPlainNames([file], plainName(file), async ({ folder, names: [name] }) => {
      tool ??= start();
      const tags = TagOutput.parse(
        await (await tool).readRaw(joinPath(folder, name!), { readArgs: [...plain, '-n'], ...ASKED.all }),
      );
      if (typeof tags.Error === 'string') throw new Error(tags.Error);
      if (![...IN_WORDS, ...BY_STANDARD].some((t) => t in tags)) return tags;
      const grouped = await (
        await tool
      ).readRaw(joinPath(folder, name!), {
        readArgs: [
          ...plain,
          '-G0',
          ...IN_WORDS.map((t) => `-${t}`),
          ...BY_STANDARD.map((t) => `-EXIF:${t}#`),
        ],
        ...ASKED.all,
      });
      return withWords(tags, TagOutput.parse(grouped));
    });
  } catch (e) {
    throw new Unreadable(
      `${TAGS_UNREAD}${messageOf(e)
        .split('\n')[0]!
        .replace(/ - \S{1,1000}$/, '')
        .replace(/^File format error$/i, 'it is damaged, or not what its name says')}`,
      { file },
    );
  }
}

/** The picture a camera puts into a file for a preview, the largest first: a JPEG, or `null` where there is none that can be taken out. */
export async function embeddedPicture(file: DiskPath): Promise<Uint8Array | null> {
  return withPlainNames([file], plainName(file), async ({ folder, names: [name] }) => {
    tool ??= start();
    for (const tag of ['JpgFromRaw', 'PreviewImage', 'OtherImage', 'ThumbnailImage'] as const) {
      const picture = await (
        await tool
      )
        .extractBinaryTagToBuffer(tag, joinPath(folder, name!))
        .catch(() => null);
      // JPEG begins with FF D8 (ITU-T T.81).
      if (picture && picture.length > 2 && picture[0] === 0xff && picture[1] === 0xd8) return picture;
    }
    return null;
  });
}

export async function endTagReader(): Promise<void> {
  const ended = tool;
  tool = null;
  await (await ended?.catch(() => null))?.end(false);
}
