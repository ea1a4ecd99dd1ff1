/** Trade names of the published codecs, by FFmpeg's and mediabunny's short names; anything else keeps the reader's own. */
const NAMES: Record<string, string> = {
  h264: 'H.264',
  avc: 'H.264',
  hevc: 'HEVC',
  prores: 'ProRes',
  dnxhd: 'VC-3',
  mpeg2video: 'MPEG-2',
  mpeg4: 'MPEG-4',
  mjpeg: 'Motion JPEG',
  av1: 'AV1',
  vp9: 'VP9',
  vp8: 'VP8',
  aac: 'AAC',
  ac3: 'AC-3',
  opus: 'Opus',
  flac: 'FLAC',
  mp3: 'MP3',
  vorbis: 'Vorbis',
};

export function codecName(short: string): string {
  const pcm = /^pcm[_-]([suf])(\d+)(?:le|be)?$/.exec(short);
  if (pcm) return `PCM ${pcm[2]} bit${pcm[1] === 'f' ? ' float' : ''}`;
  return Object.hasOwn(NAMES, short) ? NAMES[short]! : short;
}

/** Bits of a PCM sample from the codec's short name; `null` for others. */
export const pcmBits = (short: string): number | null =>
  Number(/^pcm[_-][suf](\d+)/.exec(short)?.[1] ?? NaN) || null;

/** A channel count in words, as FFmpeg names the usual layouts. */
export const layoutName = (channels: number): string =>
  ({ 1: 'mono', 2: 'stereo', 4: '4.0', 6: '5.1', 8: '7.1' })[channels] ?? `${channels} channels`;

/** The luminance of a mastering display, in cd/m². */
export const displayOf = (least: number, most: number): string => `${least} to ${most} cd/m²`;
