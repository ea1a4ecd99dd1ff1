'use client';
import { useState } from 'react';
import { FILMSTRIP } from '../../core/analysis';
import { useServer } from '../platform/job';

/** The frame of a clip at a share of it (0 to 1), out of its filmstrip; `width` in pixels. Nothing is shown until that is there. */
export function StripFrame({ clip, share, width }: { clip: string; share: number; width: number }) {
  const server = useServer();
  // A short clip has fewer frames than a filmstrip has room for.
  const [frames, setFrames] = useState(0);
  const at = Math.min(frames - 1, Math.floor(share * frames));
  return (
    <img
      src={server.filmstripUrl(clip)}
      alt=""
      decoding="async"
      draggable={false}
      onLoad={({ currentTarget: { naturalWidth } }) => setFrames(Math.round(naturalWidth / FILMSTRIP.width))}
      style={{
        position: 'absolute',
        top: 0,
        left: -at * width,
        width: frames * width,
        height: (width * FILMSTRIP.height) / FILMSTRIP.width,
        visibility: frames > 0 ? undefined : 'hidden',
      }}
    />
  );
}
