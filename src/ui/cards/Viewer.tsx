'use client';
import { useCallback, useEffect, useRef, useState } from 'react';
import { fps } from '../../core/platform/timecode/rate';
import { addFrames, formatTimecode, parseTimecode } from '../../core/platform/timecode/timecode';
import type { ClipView } from '../../core/cards/shapes';
import { useServer } from '../platform/job';
import { isTyping } from '../shell';
import styles from './viewer.module.css';

type Leaf = 'original' | 'proxy';

/** Speeds that J and L go through, each press the next. Times real time. */
const SPEEDS = [1, 2, 4, 8] as const;

/** Shows a clip by what it is: moving picture, a still, a sound recording. */
export function Viewer({ clip }: { clip: ClipView }) {
  const server = useServer();
  if (clip.state === 'read' && clip.kind === 'sound')
    return (
      <div className={styles.viewer}>
        <audio className={styles.sound} controls src={server.mediaUrl(clip.id, 'original')} />
      </div>
    );
  if (clip.state === 'read' && clip.kind === 'still') {
    return (
      <div className={styles.viewer}>
        <div className={styles.picture}>
          <img src={server.frameUrl(clip.id, 'original', 0, 960)} alt={clip.name} />
        </div>
      </div>
    );
  }
  return <FilmViewer clip={clip} />;
}

/**
 * Shows a clip as its original or its proxy, turning between them at the same frame. A leaf the browser can play is
 * played; an original it cannot is shown frame by frame as the server decodes it.
 */
function FilmViewer({ clip }: { clip: ClipView }) {
  const server = useServer();
  const hasProxy = clip.pair.state !== 'missing';
  const [leaf, setLeaf] = useState<Leaf>(hasProxy ? 'proxy' : 'original');
  const [frame, setFrame] = useState(0);
  const [speed, setSpeed] = useState(0);
  const [failed, setFailed] = useState<Leaf | null>(null);
  const video = useRef<HTMLVideoElement>(null);
  const target = useRef(0);
  const frames = Math.max(1, clip.frames ?? 1);
  const rate = clip.rate ? fps(clip.rate) : 25;
  const shown: Leaf = hasProxy ? leaf : 'original';
  const plays = failed !== shown && (shown === 'proxy' || clip.playable);

  /** Shows a frame; half a frame in, so that rounding cannot land on its neighbour. */
  const seek = useCallback(
    (to: number) => {
      const n = Math.max(0, Math.min(frames - 1, Math.round(to)));
      target.current = n;
      setFrame(n);
      if (video.current) video.current.currentTime = (n + 0.5) / rate;
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

  // Playing backwards, and originals that only the server decodes, go by steps of frames.
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

  // The frame that is really on the screen, told by the browser for each one it shows.
  useEffect(() => {
    const v = video.current;
    if (!v || !plays) return;
    let handle = 0;
    const tell = (_: number, meta: VideoFrameCallbackMetadata) => {
      if (!v.paused) {
        const n = Math.min(frames - 1, Math.floor(meta.mediaTime * rate + 0.5));
        target.current = n;
        setFrame(n);
      }
      handle = v.requestVideoFrameCallback(tell);
    };
    handle = v.requestVideoFrameCallback(tell);
    return () => v.cancelVideoFrameCallback(handle);
  }, [plays, shown, rate, frames]);

  const turn = useCallback(
    (to?: Leaf) => {
      if (!hasProxy) return;
      drive(0);
      setLeaf((old) => to ?? (old === 'proxy' ? 'original' : 'proxy'));
    },
    [hasProxy, drive],
  );

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
        ',': () => seek(target.current - step),
        '.': () => seek(target.current + step),
        '<': () => seek(target.current - 10),
        '>': () => seek(target.current + 10),
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
  }, [speed, drive, seek, turn]);

  const start = clip.start && clip.rate ? parseTimecode(clip.start, clip.rate) : null;
  const here = start ? formatTimecode(addFrames(start, frame)) : `frame ${frame}`;
  const note = !hasProxy ? 'No proxy yet: this is the original.' : null;
  const how = plays ? null : 'Decoded by the server, frame by frame: the browser cannot play this coding.';
  if (clip.state !== 'read') {
    return (
      <div className={styles.viewer}>
        <div className={styles.blank}>
          {clip.state === 'waiting'
            ? 'Still being read …'
            : 'This clip cannot be read, so it cannot be shown.'}
        </div>
      </div>
    );
  }
  return (
    <div className={styles.viewer}>
      <div className={styles.picture}>
        {plays ? (
          <video
            key={shown}
            ref={video}
            src={server.mediaUrl(clip.id, shown)}
            preload="auto"
            playsInline
            onLoadedMetadata={() => seek(target.current)}
            onEnded={() => setSpeed(0)}
            onError={() => setFailed(shown)}
          />
        ) : (
          <img src={server.frameUrl(clip.id, shown, frame, 960)} alt={`Frame ${frame} of ${clip.name}`} />
        )}
        <div className={styles.leaves} role="group" aria-label="Which file is shown">
          <button type="button" aria-pressed={shown === 'original'} onClick={() => turn('original')}>
            Original
          </button>
          <button
            type="button"
            aria-pressed={shown === 'proxy'}
            disabled={!hasProxy}
            onClick={() => turn('proxy')}
          >
            Proxy
          </button>
        </div>
      </div>
      <div
        className={styles.scrub}
        style={clip.filmstrip ? { backgroundImage: `url(${server.filmstripUrl(clip.id)})` } : undefined}
      >
        <input
          type="range"
          min={0}
          max={frames - 1}
          value={frame}
          onChange={(e) => {
            drive(0);
            seek(Number(e.target.value));
          }}
          onKeyDown={(e) => e.key !== 'Tab' && e.stopPropagation()}
          aria-label="Frame"
          aria-valuetext={here}
        />
      </div>
      <div className={styles.bar}>
        <button
          type="button"
          onClick={() => drive(speed === 0 ? 1 : 0)}
          aria-label={speed === 0 ? 'Play' : 'Stop'}
        >
          {speed === 0 ? '▶' : '■'}
        </button>
        <button type="button" onClick={() => seek(frame - 1)} aria-label="One frame back">
          ‹
        </button>
        <button type="button" onClick={() => seek(frame + 1)} aria-label="One frame on">
          ›
        </button>
        <strong className="figures" data-testid="here">
          {here}
        </strong>
        <span className="figures soft" data-testid="frame">
          {frame + 1} of {frames}
        </span>
        {speed !== 0 && speed !== 1 && <span className="figures">{speed}×</span>}
      </div>
      {(note ?? how) && <p className={styles.note}>{[note, how].filter(Boolean).join(' ')}</p>}
    </div>
  );
}
