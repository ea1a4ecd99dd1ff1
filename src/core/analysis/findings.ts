import * as z from 'zod';
import { fps, type Rate } from '../platform/timecode/rate';
import type { PicturesSeen } from './pictures';
import type { Range } from './ranges';
import { silences, type SoundSeen } from './sound';

/** Something to look at or listen to in a clip: from this frame to before that one, from 0. */
export const Finding = z.object({
  what: z.enum(['black', 'frozen', 'silent', 'channelSilent', 'clipped']),
  from: z.int(),
  to: z.int(),
  /** Numbers of the audio channels it is about, from 1; empty of the picture, or of all sound. */
  channels: z.array(z.int()),
});
export type Finding = z.infer<typeof Finding>;

export const FINDING_WORDS: Record<Finding['what'], string> = {
  black: 'black picture',
  frozen: 'frozen picture',
  silent: 'silence',
  channelSilent: 'no sound',
  clipped: 'clipped sound',
};

/** In words, without its place: "clipped sound, channels 1 and 2". */
export const findingWords = ({ what, channels }: Finding): string =>
  channels.length === 0
    ? FINDING_WORDS[what]
    : `${FINDING_WORDS[what]}, ${channels.length === 1 ? 'channel' : 'channels'} ${new Intl.ListFormat('en', { type: 'conjunction' }).format(channels.map(String))}`;

/** What was found, in order of its place. `frozen` in frames. Sound alone has no black pictures, and as many frames as it is counted in. */
export function findingsOf(
  pictures: Pick<PicturesSeen, 'frames' | 'black'>,
  frozen: readonly Range[],
  sound: readonly SoundSeen[],
  rate: Rate,
): Finding[] {
  const { frames } = pictures;
  const inFrames = ({ from, to }: Range): Pick<Finding, 'from' | 'to'> => {
    const first = Math.min(Math.floor(from * fps(rate)), Math.max(0, frames - 1));
    return { from: first, to: Math.min(frames, Math.max(first + 1, Math.ceil(to * fps(rate)))) };
  };
  const none = { channels: [] };
  const channels = sound.flatMap((s) =>
    s.levels.map((level, i) => ({ level, clipped: s.clipped[i]!, quiet: s.quiet[i]!, length: s.length })),
  );
  const throughout = channels.map(
    ({ quiet, length }) => length > 0 && quiet.some((q) => q.from === 0 && q.to >= length),
  );
  const silentOnes = throughout.flatMap((is, i) => (is ? [i + 1] : []));
  const all = silentOnes.length === channels.length;
  return [
    // A black picture stands still, too.
    ...frozen
      .filter((f) => !pictures.black.some((b) => b.from <= f.from && b.to >= f.to))
      .map((r) => ({ what: 'frozen' as const, ...r, ...none })),
    ...pictures.black.map((r) => ({ what: 'black' as const, ...r, ...none })),
    ...silences(sound).map((r) => ({ what: 'silent' as const, ...inFrames(r), ...none })),
    ...(silentOnes.length > 0 && !all
      ? [{ what: 'channelSilent' as const, from: 0, to: frames, channels: silentOnes }]
      : []),
    ...clippings(channels.map((c) => c.clipped)).map(({ channels: at, ...r }) => ({
      what: 'clipped' as const,
      ...inFrames(r),
      channels: at,
    })),
  ].sort((a, b) => a.from - b.from || a.to - b.to);
}

/** Where channels are clipped, those that are so at the same place as one. */
function clippings(byChannel: readonly (readonly Range[])[]): (Range & { channels: number[] })[] {
  const all = byChannel
    .flatMap((list, i) => list.map((r) => ({ ...r, channel: i + 1 })))
    .sort((a, b) => a.from - b.from);
  const out: (Range & { channels: number[] })[] = [];
  for (const { channel, from, to } of all) {
    const last = out.at(-1);
    if (last && from <= last.to) {
      last.to = Math.max(last.to, to);
      if (!last.channels.includes(channel)) last.channels = [...last.channels, channel].sort((a, b) => a - b);
    } else out.push({ from, to, channels: [channel] });
  }
  return out;
}
