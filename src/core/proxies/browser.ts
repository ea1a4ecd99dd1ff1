/** Containers and codecs the browser plays: H.264 4:2:0 8 bit with AAC or no sound (Debian's Chromium; HEVC and ProRes it does not). */
export function browserPlays(clip: {
  container: string | null;
  codec: string | null;
  chroma: string | null;
  bitDepth: number | null;
  audioCodec: string | null;
}): boolean {
  return (
    (clip.container === 'MP4' || clip.container === 'MOV') &&
    clip.codec === 'H.264' &&
    clip.chroma === '4:2:0' &&
    clip.bitDepth === 8 &&
    (clip.audioCodec === null || clip.audioCodec === 'AAC')
  );
}
