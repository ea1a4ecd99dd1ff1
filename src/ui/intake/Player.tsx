'use client';
import Dialog from '@mui/material/Dialog';
import { useEffect, useRef, useState } from 'react';
import { useServer } from '../platform/job';
import { formatBytes } from '../platform/format';
import { shownFile } from './Tile';
import styles from './intake.module.css';
import type { LookedClip } from './ticks';

interface Props {
  root: string;
  folder: string;
  clip: LookedClip | null;
  close: () => void;
  step: (by: number) => void;
}

/** Plays a clip from the card, with sound; the arrows go to the next. */
export function Player({ root, folder, clip, close, step }: Props) {
  return (
    <Dialog
      open={clip !== null}
      onClose={close}
      maxWidth="md"
      fullWidth
      onKeyDown={(e) => {
        const by = ({ ArrowUp: -1, ArrowDown: 1 } as Record<string, number>)[e.key];
        if (by === undefined) return;
        e.preventDefault();
        step(by);
      }}
    >
      {clip && <Film key={clip.path} root={root} folder={folder} clip={clip} close={close} step={step} />}
    </Dialog>
  );
}

function Film({ root, folder, clip, close, step }: Props & { clip: LookedClip }) {
  const server = useServer();
  const [failed, setFailed] = useState(false);
  const media = useRef<HTMLVideoElement & HTMLAudioElement>(null);
  const url = server.lookedPlayUrl(root, shownFile(folder, clip));
  // Where the browser may not start by itself, the person presses play.
  useEffect(() => void media.current?.play().catch(() => undefined), []);
  return (
    <div className={styles.player}>
      {failed ? (
        <div className={styles.unplayed}>It cannot be played. It may be cut short or damaged.</div>
      ) : clip.kind === 'sound' ? (
        <audio ref={media} src={url} controls onError={() => setFailed(true)} />
      ) : clip.kind === 'video' ? (
        <video ref={media} src={url} controls playsInline onError={() => setFailed(true)} />
      ) : (
        <div className={styles.unplayed}>Pictures are not played.</div>
      )}
      <div>
        <strong className="figures">{clip.stem}</strong>
        <span className="soft figures">{formatBytes(clip.bytes)}</span>
        <span style={{ flex: 1 }} />
        <button type="button" onClick={() => step(-1)}>
          ↑ before
        </button>
        <button type="button" onClick={() => step(1)}>
          ↓ next
        </button>
        <button type="button" onClick={close}>
          Close
        </button>
      </div>
    </div>
  );
}
