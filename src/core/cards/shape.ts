import { z } from 'zod';

/** What a file is to its clip. */
export const FileRole = z.enum(['original', 'sidecar', 'look', 'thumbnail', 'cameraProxy', 'proxy']);
export type FileRole = z.infer<typeof FileRole>;

export const ROLE_WORDS: Record<FileRole, string> = {
  original: 'original', sidecar: 'sidecar', look: 'look', thumbnail: 'thumbnail', cameraProxy: 'camera-made proxy', proxy: 'made proxy',
};

/**
 * A card shape: how one kind of card lays out its files. Data, not code: shapes can be written to and read from JSON.
 * Patterns are regular expressions over the path below the card's folder, "/" between the parts, tried without case.
 */
export const CardShape = z.object({
  id: z.string().regex(/^[a-z0-9-]+$/),
  /** What the person reads: "a folder per clip". */
  name: z.string().min(1),
  /** From what it was recognised, in words. */
  because: z.string().min(1),
  /** Each must match at least one file. */
  marks: z.array(z.string()).min(1),
  /**
   * First match wins. The group `stem` is the clip's name; for files beside the original it may be longer than the
   * clip's own. A file of video that no rule covers means that this is not the shape.
   */
  rules: z.array(z.object({ pattern: z.string(), role: FileRole })),
});
export type CardShape = z.infer<typeof CardShape>;

const VIDEO = '(?:mp4|mov|mxf)';

export const VIDEO_EXTENSIONS: ReadonlySet<string> = new Set(['mp4', 'mov', 'mxf', 'm4v']);
const BESIDE = String.raw`(?<stem>[^/]+)\.`;

/** The shapes the product ships, most particular first. `plain` is the fallback and takes any folder with video in it. */
export const SHAPES: readonly CardShape[] = [
  {
    id: 'clip-and-sub',
    name: 'CLIP and SUB folders',
    because: 'video stands in a CLIP folder, proxies if there are any in SUB',
    marks: [String.raw`^clip/[^/]+\.${VIDEO}$`],
    rules: [
      { pattern: String.raw`^clip/${BESIDE}${VIDEO}$`, role: 'original' },
      { pattern: String.raw`^(?:clip|sub)/${BESIDE}xml$`, role: 'sidecar' },
      { pattern: String.raw`^sub/${BESIDE}${VIDEO}$`, role: 'cameraProxy' },
      { pattern: String.raw`^(?:clip|thmbnl)/${BESIDE}(?:jpg|thm)$`, role: 'thumbnail' },
    ],
  },
  {
    id: 'folder-per-clip',
    name: 'a folder per clip',
    because: 'each clip stands in a folder of its own name',
    marks: [String.raw`^(?<folder>[^/]+)/\k<folder>\.${VIDEO}$`],
    rules: [
      { pattern: String.raw`^(?<stem>[^/]+)/\k<stem>\.${VIDEO}$`, role: 'original' },
      { pattern: String.raw`^[^/]+/${BESIDE}(?:cdl|cc|ccc|cube)$`, role: 'look' },
      { pattern: String.raw`^[^/]+/${BESIDE}xml$`, role: 'sidecar' },
      { pattern: String.raw`^[^/]+/${BESIDE}(?:jpg|thm)$`, role: 'thumbnail' },
    ],
  },
  {
    id: 'plain',
    name: 'a plain folder',
    because: 'video files without a card layout',
    marks: [String.raw`^(?:[^/]+/)*[^/]+\.(?:mp4|mov|mxf|m4v)$`],
    rules: [
      { pattern: String.raw`^(?:[^/]+/)*prox(?:y|ies)/${BESIDE}${VIDEO}$`, role: 'cameraProxy' },
      { pattern: String.raw`^(?:[^/]+/)*${BESIDE}(?:mp4|mov|mxf|m4v)$`, role: 'original' },
      { pattern: String.raw`^(?:[^/]+/)*${BESIDE}(?:xml)$`, role: 'sidecar' },
      { pattern: String.raw`^(?:[^/]+/)*${BESIDE}(?:cdl|cc|ccc|cube)$`, role: 'look' },
      { pattern: String.raw`^(?:[^/]+/)*${BESIDE}(?:thm)$`, role: 'thumbnail' },
    ],
  },
];

/** The last extension without its dot, lower case; "" where there is none. A leading dot is no extension. */
export function extensionOf(path: string): string {
  const name = path.slice(path.lastIndexOf('/') + 1);
  const dot = name.lastIndexOf('.');
  return dot <= 0 ? '' : name.slice(dot + 1).toLowerCase();
}

export const isVideo = (path: string): boolean => VIDEO_EXTENSIONS.has(extensionOf(path));
