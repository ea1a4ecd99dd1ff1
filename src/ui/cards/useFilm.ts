'use client';
import { useCallback, useEffect, useRef, useState } from 'react';
import type { ClipView } from '../../core/cards/shapes';
import { countOf } from '../../core/choose';
import { fps } from '../../core/platform/timecode/rate';
import { isTyping } from '../shell';
import { timeOfFrame, watchFrames } from './watchFrames';

/** What is shown of a clip: one of its two files, both beside each other, or what is otherwise in the second. */
export type Leaf = 'original' | 'proxy' | 'both' | 'difference';

/** Speeds that J and L go through, each press the next. Times real time. */
const SPEEDS = [1, 2, 4, 8] as const;

/** In and out of a part that was marked: the first frame, and the last. */
export interface Marks {
  in: number | null;
  out: number | null;
}

/** An in point at a frame: an out point before it is gone. */
export const inAt = (frame: number, { out }: Marks): Marks => ({
  in: frame,
  out: out !== null && out < frame ? null : out,
});
/** An out point at a frame: an in point behind it is gone. */
export const outAt = (frame: number, { in: from }: Marks): Marks => ({
  in: from !== null && from > frame ? null : from,
  out: frame,
});

export interface Film {
  clip: ClipView;
  frames: number;
  frame: number;
  /** Frames a second. */
  rate: number;
  speed: number;
  leaf: Leaf;
  hasProxy: boolean;
  /** Whether the browser plays what is shown; else the server decodes it frame by frame. */
  plays: boolean;
  video: React.RefObject<HTMLVideoElement | null>;
  marks: Marks;
  mark: (marks: Marks) => void;
  seek: (to: number) => void;
  drive: (speed: number) => void;
  turn: (to?: Leaf) => void;
  failed: () => void;
  loaded: () => void;
}

/** A clip as it is played, stepped through and turned over; `first` is the frame that is shown first. */
export function useFilm(clip: ClipView, first = 0): Film {
  const hasProxy = clip.pair.file !== null;
  const [leaf, setLeaf] = useState<Leaf>(hasProxy ? 'proxy' : 'original');
  const [frame, setFrame] = useState(first);
  const [speed, setSpeed] = useState(0);
  const [broken, setBroken] = useState<Leaf | null>(null);
  const [marks, mark] = useState<Marks>({ in: null, out: null });
  const video = useRef<HTMLVideoElement>(null);
  const target = useRef(first);
  const counted = countOf(clip);
  const frames = counted?.frames ?? 1;
  const rate = counted ? fps(counted.rate) : 25;
  const shown: Leaf = hasProxy ? leaf : 'original';
  const pictures = clip.kind !== 'sound';
  const plays =
    clip.kind !== 'still' &&
    broken !== shown &&
    (shown === 'proxy' || (shown === 'original' && (clip.playable || !pictures)));

  /** Shows a frame; half a frame in, so that rounding cannot land on its neighbour. */
  const seek = useCallback(
    (to: number) => {
      const n = Math.max(0, Math.min(frames - 1, Math.round(to)));
      target.current = n;
      setFrame(n);
      if (video.current) video.current.currentTime = timeOfFrame(n, rate);
    },
    [frames, rate],
  );
  const drive = useCallback((wanted: number) => {
    setSpeed(wanted);
    const v = video.current;
    if (!v) return;
    if (wanted > 0) {
      v.playbackRate = wanted;
      void v.play().catch(() => setSpeed(0));
    } else v.pause();
  }, []);

  // Playing backwards, and what only the server decodes, go by steps of frames.
  useEffect(() => {
    if (speed === 0 || (speed > 0 && plays)) return;
    const every = plays ? 40 : 250;
    const timer = setInterval(() => {
      const next = target.current + (speed * rate * every) / 1000;
      if (next <= 0 || next >= frames - 1) drive(0);
      seek(next);
    }, every);
    return () => clearInterval(timer);
  }, [speed, plays, rate, frames, seek, drive]);

  // The frame that is really on the screen.
  useEffect(() => {
    const v = video.current;
    if (!v || !plays) return;
    return watchFrames(v, { rate, pictures }, (shown) => {
      if (v.paused) return;
      const n = Math.min(frames - 1, shown);
      target.current = n;
      setFrame(n);
    });
  }, [plays, shown, rate, frames, pictures]);

  const turn = useCallback(
    (to?: Leaf) => {
      if (!hasProxy) return;
      drive(0);
      setLeaf((old) => to ?? (old === 'proxy' ? 'original' : 'proxy'));
    },
    [hasProxy, drive],
  );
  return {
    ...{
      clip,
      frames,
      frame,
      rate,
      speed,
      leaf: shown,
      hasProxy,
      plays,
      video,
      marks,
      mark,
      seek,
      drive,
      turn,
    },
    failed: () => setBroken(shown),
    loaded: () => seek(target.current),
  };
}

/** The keys of the viewer, wherever nobody types. */
export function useFilmKeys({ frame, speed, leaf, marks, mark, seek, drive, turn }: Film): void {
  useEffect(() => {
    const press = (e: KeyboardEvent) => {
      if (isTyping(e) || e.ctrlKey || e.metaKey || e.altKey) return;
      const step = e.shiftKey ? 10 : 1;
      const faster = (sign: 1 | -1) => {
        const now = Math.sign(speed) === sign ? Math.abs(speed) : 0;
        drive(sign * (SPEEDS.find((x) => x > now) ?? SPEEDS.at(-1)!));
      };
      const action: Record<string, () => void> = {
        ' ': () => drive(speed === 0 ? 1 : 0),
        k: () => drive(0),
        l: () => faster(1),
        j: () => faster(-1),
        p: () => turn(),
        b: () => turn(leaf === 'both' ? 'proxy' : 'both'),
        d: () => turn(leaf === 'difference' ? 'proxy' : 'difference'),
        i: () => mark(inAt(frame, marks)),
        o: () => mark(outAt(frame, marks)),
        x: () => mark({ in: null, out: null }),
        ',': () => seek(frame - step),
        '.': () => seek(frame + step),
        '<': () => seek(frame - 10),
        '>': () => seek(frame + 10),
      };
      const key = e.key.length === 1 ? e.key.toLowerCase() : e.key;
      // A space on a button presses it; it plays only where nothing else would take it.
      if (!action[key] || (key === ' ' && e.target instanceof HTMLElement && e.target.closest('button,a')))
        return;
      e.preventDefault();
      action[key]();
    };
    window.addEventListener('keydown', press);
    return () => window.removeEventListener('keydown', press);
  }, [frame, speed, leaf, marks, mark, seek, drive, turn]);
}
