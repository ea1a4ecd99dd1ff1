import { useCallback, useEffect, useRef, useState } from 'react';
import type { PlayPart as Part } from '../../core/choose';
import { fps } from '../../core/platform/timecode/rate';
import { timeOfFrame, watchFrames } from '../cards';

/** A string-out as it is played: which part, and which frame of its clip. */
export interface Played {
  at: number;
  frame: number;
  playing: boolean;
  go: (part: number) => void;
  toggle: () => void;
  /** Both players; the one of an even part is the first. */
  players: readonly [React.RefObject<HTMLVideoElement | null>, React.RefObject<HTMLVideoElement | null>];
}

const timeOf = (frame: number, part: Part): number => timeOfFrame(frame, fps(part.rate));

/**
 * Plays part after part through two players: while one plays, the other stands at the first frame of the next part and is let go when
 * the first is at its end. What the browser cannot play is shown by its first frame for as long as it is.
 */
export function usePlayed(parts: readonly Part[]): Played {
  const [place, setPlace] = useState({ at: 0, frame: 0 });
  const [playing, setPlaying] = useState(false);
  const first = useRef<HTMLVideoElement>(null);
  const second = useRef<HTMLVideoElement>(null);
  const at = Math.min(place.at, Math.max(0, parts.length - 1));
  const part = parts[at];
  const playerOf = useCallback((n: number) => (n % 2 === 0 ? first : second).current, []);

  const go = useCallback(
    (n: number) => {
      const to = parts[n];
      if (!to) return setPlaying(false);
      const player = playerOf(n);
      if (player && to.plays) player.currentTime = timeOf(to.from, to);
      setPlace({ at: n, frame: to.from });
    },
    [parts, playerOf],
  );

  // The next part stands ready at its first frame.
  const next = parts[at + 1];
  useEffect(() => {
    const player = playerOf(at + 1);
    if (!player || !next?.plays) return;
    player.pause();
    player.currentTime = timeOf(next.from, next);
  }, [at, next, playerOf]);

  useEffect(() => {
    const player = playerOf(at);
    if (!part || !playing) {
      player?.pause();
      return;
    }
    const over = () => {
      if (parts[at + 1]) go(at + 1);
      else setPlaying(false);
    };
    if (!player || !part.plays) {
      const timer = setTimeout(over, ((part.to - part.from) / fps(part.rate)) * 1000);
      return () => clearTimeout(timer);
    }
    return playPart(player, part, {
      shown: (frame) => setPlace({ at, frame }),
      over,
    });
  }, [at, part, parts, playing, go, playerOf]);

  return {
    at,
    frame: part ? Math.max(part.from, Math.min(part.to - 1, place.frame)) : 0,
    playing,
    go,
    toggle: () => setPlaying((p) => !p),
    players: [first, second],
  };
}

/** Plays a part until its last frame was shown. Returns the way to stop. */
function playPart(
  player: HTMLVideoElement,
  part: Part,
  tell: { shown: (frame: number) => void; over: () => void },
): () => void {
  let stopped = false;
  const stop = watchFrames(player, { rate: fps(part.rate), pictures: part.media !== 'sound' }, (frame) => {
    if (frame < part.to) return tell.shown(frame);
    tell.over();
    return false;
  });
  const ended = () => !stopped && tell.over();
  player.addEventListener('ended', ended);
  void player.play().catch(() => undefined);
  return () => {
    stopped = true;
    stop();
    player.removeEventListener('ended', ended);
    player.pause();
  };
}
