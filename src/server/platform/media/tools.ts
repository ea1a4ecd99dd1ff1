import { execa, type Options } from 'execa';
import { totalmem } from 'node:os';
import { existsSync } from '../files/onDisk';

/** The programs that read and make media. Set by the launcher, which finds them; else they must be on the path. */
export const FFMPEG = (): string => process.env.FFMPEG_PATH || 'ffmpeg';
export const FFPROBE = (): string => process.env.FFPROBE_PATH || 'ffprobe';

/**
 * A local file as FFmpeg takes it: never a protocol, never an option. FFmpeg's own name for files switches off every
 * other reading of the text.
 */
export const asInput = (file: string): string => `file:${file}`;

/** What a program may use: memory in bytes (half of the machine's; less in tests), and pixels of one picture (some 20 000 by 20 000). */
export const toolLimits = { memory: Math.max(4 * 2 ** 30, Math.floor(totalmem() / 2)), pixels: 400_000_000 };

const found = (name: string): string | null =>
  ['/usr/bin', '/bin', '/usr/sbin', '/sbin']
    .map((folder) => `${folder}/${name}`)
    .find((f) => existsSync(f)) ?? null;
let wrappers: { die: string | null; limit: string | null; nice: string | null } | null = null;

/** How far long work goes behind what a person waits for, and behind copying (`nice`): 10 unless `SORT_SHELF_NICE` says another number from 0 to 19. */
function niceness(): string {
  const wanted = process.env.SORT_SHELF_NICE ?? '';
  return /^1?\d$/.test(wanted) ? wanted : '10';
}

/**
 * A program that reads what a card holds, with its arguments, as it is started: with a limit on its memory, and so that it ends
 * with this process however that ends (`prlimit` and `setpriv` of util-linux), and `behind` all else. Where those are not there it is started as it is.
 */
export function limited(program: string, args: readonly string[], behind = false): [string, string[]] {
  wrappers ??= { die: found('setpriv'), limit: found('prlimit'), nice: found('nice') };
  const { die, limit, nice } = wrappers;
  const [first, ...rest] = [
    ...(behind && nice !== null ? [nice, '-n', niceness()] : []),
    ...(die === null ? [] : [die, '--pdeathsig', 'KILL', '--']),
    ...(limit === null ? [] : [limit, `--data=${toolLimits.memory}`, '--core=0', '--']),
    program,
    ...args,
  ];
  return [first!, rest];
}

/** FFmpeg, started with what every work of it has in common. */
export const startFfmpeg = <O extends Options>(args: readonly string[], options: O, behind = false) =>
  execa(...limited(FFMPEG(), ['-hide_banner', '-nostdin', '-v', 'error', ...args], behind), options);

/** The first line of `ffmpeg -version`. Throws where it does not start. */
export async function ffmpegVersion(): Promise<string> {
  const { stdout } = await execa(FFMPEG(), ['-version'], { timeout: 20_000 });
  return stdout.split('\n')[0]!;
}

/** What FFmpeg says of itself, asked once; what it did not say is asked anew the next time. */
function asked<T>(ask: (words: (...args: string[]) => Promise<string>) => Promise<T>): () => Promise<T> {
  const words = async (...args: string[]): Promise<string> =>
    (await execa(FFMPEG(), ['-hide_banner', ...args], { timeout: 60_000 })).stdout;
  let said: Promise<T> | null = null;
  return () => {
    said ??= ask(words).catch((e: unknown) => {
      said = null;
      throw e;
    });
    return said;
  };
}

/** FFmpeg's option to keep every frame as it is: `-fps_mode` from version 5.1 on, `-vsync` before. */
export const keepFrames = asked<readonly string[]>(async (words) =>
  (await words('-h', 'long')).includes('-fps_mode')
    ? ['-fps_mode', 'passthrough']
    : ['-vsync', 'passthrough'],
);

/** The encoders and filters that the FFmpeg here was built with. */
export const abilities = asked(async (words) => {
  const names = async (list: string, line: RegExp): Promise<ReadonlySet<string>> =>
    new Set((await words(`-${list}`)).split('\n').flatMap((l) => line.exec(l)?.[1] ?? []));
  const [encoders, filters] = await Promise.all([
    names('encoders', /^ [VAS][.\w]{5} (\S+) /),
    names('filters', /^ [.\w]{3} (\S+) /),
  ]);
  return { encoders, filters };
});

/** What the system says of a file that gives no more bytes (POSIX `strerror`), as FFmpeg passes it on behind the file's name. */
const NO_MORE =
  /^file:.{0,5000}: (Input\/output error|Remote I\/O error|No such device(?: or address)?|No medium found|Transport endpoint is not connected|Software caused connection abort|Stale file handle|Connection timed out|Host is down)$/m;

/**
 * Why FFmpeg could read a file no further, where that is so: a bad block, or its drive is gone. It takes that for the end of the file, and
 * ends well: what it made lacks the rest.
 */
export const readNoFurther = (stderr: string): string | null => NO_MORE.exec(stderr)?.[1] ?? null;

/** The last telling line of what a media program wrote to its error stream. Paths of the folders files are handed over in are left out. */
export function lastWords(stderr: unknown): string {
  const lines = (typeof stderr === 'string' ? stderr : '')
    .split('\n')
    .map((l) => l.replace(/^\[[^\]]*\]\s*/, '').trim())
    .filter((l) => l !== '' && !l.startsWith('Last message repeated'));
  return (lines.at(-1) ?? 'no reason was given').replace(/^file:\S*\/shelf-input-\S*: /, '');
}
