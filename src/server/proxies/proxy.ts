import { ExecaError } from 'execa';
import path from 'node:path';
import { proxyArguments, type ProxySource, type Recipe } from '../../core/proxies/recipe';
import { Refused, Unreadable } from '../platform/errors';
import { freeBytes, LEAST_ROOM } from '../platform/files/onDisk';
import { type Footage, nameOf, withInput } from '../platform/media/input';
import { asInput, keepFrames, lastWords, startFfmpeg } from '../platform/media/tools';

export interface ProxyProgress {
  /** 0 to 1. */
  done: number;
  /** Seconds of footage per second of work so far. */
  speed: number;
}

/** How long FFmpeg may make no further picture. Milliseconds; shorter in tests. */
export const proxyLimits = { milliseconds: 10 * 60_000 };

/** Opens one after another, and gives FFmpeg's arguments for all of them. */
const withInputs = <T>(
  [first, ...rest]: readonly (Footage | string)[],
  work: (args: string[]) => Promise<T>,
): Promise<T> =>
  first === undefined
    ? work([])
    : withInput(first, ({ args }) => withInputs(rest, (more) => work([...args, ...more])));

/**
 * Makes a proxy of `inputs`, the picture first and then the files that its sound is apart in, at `to` (which must not exist) by a recipe. Reports progress about twice a second. Aborting
 * the signal ends FFmpeg and rejects; what it wrote so far is left for the caller to remove.
 */
export async function makeProxy(
  inputs: readonly [Footage | string, ...string[]],
  to: string,
  recipe: Recipe,
  source: ProxySource,
  options: { signal: AbortSignal; onProgress: (p: ProxyProgress) => void },
): Promise<{ speed: number }> {
  const keep = await keepFrames();
  const length = (source.frames * source.rate.den) / source.rate.num;
  const begun = performance.now();
  const speedAt = (share: number) => (length * share) / Math.max(0.001, (performance.now() - begun) / 1000);
  return withInputs(inputs, async (args) => {
    const run = startFfmpeg(
      ['-n', '-progress', 'pipe:1', ...args, ...proxyArguments(recipe, source, keep), asInput(to)],
      {
        cancelSignal: options.signal,
        stdout: 'pipe',
        buffer: { stdout: false, stderr: true },
        maxBuffer: 1 << 20,
      },
    );
    // One that makes no further picture is stuck, or its drive has gone.
    let [frame, at] = [-1, performance.now()];
    const watch = setInterval(() => {
      if (performance.now() - at > proxyLimits.milliseconds) run.kill('SIGKILL');
    }, proxyLimits.milliseconds / 10);
    const reading = (async () => {
      for await (const line of run.iterable({ from: 'stdout' })) {
        const m = /^frame=\s*(\d+)/.exec(String(line));
        if (!m) continue;
        if (Number(m[1]) !== frame) [frame, at] = [Number(m[1]), performance.now()];
        const done = Math.min(1, Number(m[1]) / Math.max(1, source.frames));
        options.onProgress({ done, speed: speedAt(done) });
      }
    })();
    try {
      await run;
      await reading;
    } catch (e) {
      await reading.catch(() => undefined);
      if (e instanceof ExecaError && e.isCanceled) throw options.signal.reason;
      const folder = path.dirname(to);
      if ((await freeBytes(folder)) < LEAST_ROOM)
        throw new Refused(
          `No proxy could be made of ${nameOf(inputs[0])}: the volume of ${folder} is full.`,
          {
            file: folder,
            next: 'Make room there, then make it again.',
          },
        );
      const stuck = performance.now() - at > proxyLimits.milliseconds;
      if (e instanceof ExecaError)
        throw new Unreadable(
          `No proxy could be made of ${nameOf(inputs[0])}: ${stuck ? `FFmpeg made no picture for ${proxyLimits.milliseconds / 1000} s` : lastWords(e.stderr)}`,
        );
      throw e;
    } finally {
      clearInterval(watch);
    }
    return { speed: speedAt(1) };
  });
}
