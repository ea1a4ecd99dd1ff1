import type { Rate } from './rate';
import { framesBetween, parseTimecode, type Timecode } from './timecode';

/** A clip, and the frame of it that is shown. */
export interface Shown {
  start: Timecode | null;
  rate: Rate | null;
  frames: number;
  frame: number;
}

/**
 * The frame that a person typed: a timecode ("14:22:07:10"), frames on or back ("+10", "-10"), or a number of frames from the start ("250",
 * counted from 1, as it is shown). Null for what is none of these, or is not in the clip.
 */
export function frameTyped(text: string, { start, rate, frames, frame }: Shown): number | null {
  const typed = text.trim();
  const by = /^[+-]\d{1,9}$/.test(typed) ? frame + Number(typed) : null;
  const number = /^\d{1,9}$/.test(typed) ? Number(typed) - 1 : null;
  const address =
    start && rate && typed.includes(':') ? parseTimecode(typed, rate, { drop: start.drop }) : null;
  const to = by ?? number ?? (start && address ? framesBetween(start, address) : null);
  return to !== null && to >= 0 && to < frames ? to : null;
}
