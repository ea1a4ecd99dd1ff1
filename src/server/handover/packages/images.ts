import { createHash } from 'node:crypto';
import type { Statement } from '../../../core/facts';
import {
  type ImageAbout,
  imageBytes,
  type ImageKind,
  imageTail,
  isInterlaced,
  type Part,
  partFault,
} from '../../../core/proxies';
import type { Packable } from '../../../core/handover';
import { addressOf } from '../../../core/platform/timecode/timecode';
import type { files } from '../../cards/tables';
import { type ImageSource, imageSource } from '../../proxies';
import type { Placed } from '../sides';

type FileRow = typeof files.$inferSelect;

/** What images of a clip's frames are made from, and how. */
export interface ImagesFrom extends ImageSource {
  kind: ImageKind;
  /** Of each, as foreseen. */
  bytes: number;
  /** Of the file, or the last of the files, that they are made from: milliseconds since 1970. */
  modified: number;
  /** Tells all that they follow from but the clip's name. */
  of: string;
  about: (frame: number, name: string) => ImageAbout;
}

/** The files that the picture of a clip is in. */
const PICTURE = new Set<FileRow['role']>(['original', 'segment', 'still']);
export const pictureOf = (family: readonly FileRow[]): FileRow[] => family.filter((f) => PICTURE.has(f.role));

/** What images of a clip are made from, out of what it states and the files its picture is in; why there can be none, in words. */
export function imagesFrom(
  kind: ImageKind,
  { original }: Placed,
  statements: readonly Statement[],
  picture: readonly FileRow[],
): ImagesFrom | string {
  const from = imageSource(statements);
  if (!from) return 'it states no rate or length.';
  const { source, width, height } = from;
  const fault = partFault(source);
  if (fault !== null) return fault;
  const { pixelAspect, rotation, scan, colour, rate } = source;
  const { start } = original;
  const follows = [kind, start, rate, pixelAspect, rotation, scan, colour, width, height];
  const states = picture.map((f) => [f.size, f.modified]).sort();
  return {
    ...from,
    kind,
    bytes: imageBytes(kind, width, height),
    modified: Math.max(...picture.map((f) => f.modified)),
    of: createHash('sha256')
      .update(JSON.stringify([follows, states]))
      .digest('hex')
      .slice(0, 16),
    about: (frame, name) => ({
      name,
      source: original.name,
      timecode: start && addressOf(start, frame, rate),
      rate,
      interlaced: isInterlaced(source),
      ...{ transfer: colour.transfer, primaries: colour.primaries },
    }),
  };
}

/** Images of the frames of a clip, to be made when they go. */
export const imagesToGo = (
  original: FileRow,
  stem: string,
  { bytes, modified, of }: ImagesFrom,
  parts: readonly Part[],
): Packable[] =>
  parts.flatMap(({ from, to }) =>
    Array.from({ length: to - from }, (_, i): Packable => {
      const frame = from + i;
      return {
        ...{ file: original.id, what: 'used', root: original.root, path: original.path },
        ...{ size: bytes, modified, onCard: original.onCard, away: null, renamed: true },
        ...{ name: `${stem}${imageTail(frame)}`, image: { frame, of } },
      };
    }),
  );

/** What is said of a clip of which images go. */
export const imageNote = (kind: ImageKind): string =>
  `as RGB images, full range, ${kind === 'dpx10' ? 10 : 16} bit: converted from the recording, transfer curve unchanged`;
