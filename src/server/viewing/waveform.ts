import { and, eq } from 'drizzle-orm';
import { SAMPLES_A_SECOND, SoundReader, type Waveform } from '../../core/analysis';
import type { DiskPath } from '../../core/platform/names';
import { decode, keepWaveform, waveformOf } from '../analysis';
import { withFile } from '../cards';
import { clips } from '../cards/tables';
import { type Footage, withInput } from '../platform/media/input';
import type { InJob } from './ports';

/** Those that are being listened to. */
const listening = new Map<string, Promise<Waveform>>();

/**
 * The waveform of a clip: as it was seen when something was made of it; a sound recording is listened to now, once. Null where there is
 * none. Throws what `withFile` does, and Unreadable where sound does not decode.
 */
export async function waveform(runtime: InJob, clip: string): Promise<Waveform | null> {
  const kept = await waveformOf(runtime, clip);
  if (kept) return kept;
  const [row] = await runtime.db
    .select({ audio: clips.audio })
    .from(clips)
    .where(
      and(eq(clips.job, runtime.job), eq(clips.id, clip), eq(clips.kind, 'sound'), eq(clips.state, 'read')),
    );
  const channels = row?.audio[0];
  if (!channels) return null;
  const there = listening.get(clip);
  if (there) return there;
  const heard = withFile(runtime, clip, 'original', (file) => listenTo(file, channels));
  listening.set(clip, heard);
  try {
    const found = await heard;
    await keepWaveform(runtime, clip, found);
    return found;
  } finally {
    listening.delete(clip);
  }
}

/** Listens to the first sound of a file, of so many channels. */
const listenTo = (file: Footage | DiskPath, channels: number): Promise<Waveform> =>
  withInput(file, async ({ args }) => {
    const reader = new SoundReader(channels);
    const out = ['-ar', String(SAMPLES_A_SECOND), '-c:a', 'pcm_s16le', '-f', 's16le', 'pipe:1'];
    await decode(file, [...args, '-map', '0:a:0', ...out], {
      ...{ minutes: 10, behind: true },
      take: (bytes) => reader.push(bytes),
    });
    const { length, peaks } = reader.end();
    return { length, channels: peaks.map((p) => [...p]) };
  });
