import * as z from 'zod';

/** A filmstrip: `tiles` frames of a clip, evenly spaced from its first, side by side in one picture. Pixels. */
export const FILMSTRIP = { tiles: 20, width: 240, height: 135 } as const;

/** Frames of a filmstrip of so many frames, from 0, each once. They are those that pairs are compared by, too. */
export const sampledFrames = (frames: number): number[] => [
  ...new Set(Array.from({ length: FILMSTRIP.tiles }, (_, i) => Math.floor((i * frames) / FILMSTRIP.tiles))),
];

/** Which picture of a filmstrip stands alone where there is no room for all. */
export const Third = z.enum(['first', 'middle', 'last']);
export type Third = z.infer<typeof Third>;
