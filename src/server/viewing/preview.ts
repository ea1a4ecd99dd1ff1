import type { DiskPath } from '../../core/platform/names';
import { withInput } from '../platform/media/input';
import { startFfmpeg } from '../platform/media/tools';

/** How many previews run at once, and how long one waits for its player, in milliseconds: a player that is paused has read ahead. Shorter in tests. */
export const previewLimits = { most: 4, idle: 120_000 };

/** What is read piece by piece: `null` at its end. `close` is called once, however it ends. */
export interface Source {
  next(): Promise<Uint8Array | null>;
  close(): unknown;
}

interface Running {
  end: () => unknown;
  readAt: number;
}
const running = new Set<Running>();

/**
 * MP4 fragments of a video, 640 pixels wide, made while they are read, in the colours of BT.709 (of which `matrix` is that of the video, for
 * FFmpeg's scaler). Ends with its reader: when it is closed, when nobody has
 * read for too long, or when more are begun than may run at once, of which the one that was read longest ago is ended.
 */
export function preview(file: DiskPath, matrix: string): Promise<Source> {
  return new Promise((resolve, reject) => {
    withInput(file, async ({ args }) => {
      const run = startFfmpeg(
        [
          ...args,
          '-map',
          '0:v:0',
          '-map',
          '0:a:0?',
          '-vf',
          // So small a picture that says nothing would be taken for one of BT.601.
          `scale='min(640,iw)':-2:in_color_matrix=${matrix}:out_color_matrix=bt709:out_range=limited,format=yuv420p`,
          ...['-colorspace', 'bt709', '-color_range', 'tv'],
          '-c:v',
          'libx264',
          '-preset',
          'ultrafast',
          '-tune',
          'zerolatency',
          '-crf',
          '25',
          '-c:a',
          'aac',
          '-ac',
          '2',
          '-movflags',
          'frag_keyframe+empty_moov+default_base_moof',
          '-f',
          'mp4',
          'pipe:1',
        ],
        { buffer: false, reject: false, timeout: 60 * 60_000 },
      );
      const mine: Running = { end: () => run.kill('SIGKILL'), readAt: performance.now() };
      running.add(mine);
      for (const r of [...running]
        .sort((a, b) => a.readAt - b.readAt)
        .slice(0, Math.max(0, running.size - previewLimits.most)))
        r.end();
      const watch = setInterval(() => {
        if (performance.now() - mine.readAt > previewLimits.idle) mine.end();
      }, previewLimits.idle / 10);
      const pieces = run.stdout[Symbol.asyncIterator]() as AsyncIterator<Uint8Array, undefined>;
      resolve({
        async next() {
          mine.readAt = performance.now();
          const { value } = await pieces.next();
          return value ? new Uint8Array(value) : null;
        },
        close: mine.end,
      });
      await run;
      clearInterval(watch);
      running.delete(mine);
    }).catch(reject);
  });
}
