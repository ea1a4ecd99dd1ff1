/** A filmstrip: `tiles` frames of a clip, evenly spaced from its first, side by side in one picture. Pixels. */
export const FILMSTRIP = { tiles: 20, width: 240, height: 135 } as const;
