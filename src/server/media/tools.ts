import { execa } from 'execa';

/** The programs that read and make media. Set by the launcher, which finds them; else they must be on the path. */
export const FFMPEG = (): string => process.env.FFMPEG_PATH || 'ffmpeg';
export const FFPROBE = (): string => process.env.FFPROBE_PATH || 'ffprobe';

/**
 * A local file as FFmpeg takes it: never a protocol, never an option. FFmpeg's own name for files switches off every
 * other reading of the text.
 */
export const asInput = (file: string): string => `file:${file}`;

/** The first line of `ffmpeg -version`. Throws where it does not start. */
export async function ffmpegVersion(): Promise<string> {
  const { stdout } = await execa(FFMPEG(), ['-version'], { timeout: 20_000 });
  return stdout.split('\n')[0]!;
}

let keep: Promise<readonly string[]> | null = null;

/** FFmpeg's option to keep every frame as it is: `-fps_mode` from version 5.1 on, `-vsync` before. */
export function keepFrames(): Promise<readonly string[]> {
  keep ??= execa(FFMPEG(), ['-hide_banner', '-h', 'long'], { timeout: 20_000 })
    .then(({ stdout }) => (stdout.includes('-fps_mode') ? ['-fps_mode', 'passthrough'] : ['-vsync', 'passthrough']));
  return keep;
}

/** The last telling line of what a media program wrote to its error stream. */
export function lastWords(stderr: unknown): string {
  const lines = String(stderr ?? '').split('\n').map((l) => l.replace(/^\[[^\]]*\]\s*/, '').trim()).filter((l) => l !== '' && !l.startsWith('Last message repeated'));
  return lines.at(-1) ?? 'no reason was given';
}
