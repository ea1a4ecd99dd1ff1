import * as z from 'zod';

/**
 * What a file is to its clip. The first segment of a long take and the first of numbered stills are its `original`; those
 * that follow are `segment` and `still`. `sound` is essence of a clip whose picture and sound, or whose tracks, are in files of their
 * own. `motion` is the short film a phone records with a still.
 */
export const FileRole = z.enum([
  'original',
  'segment',
  'still',
  'sound',
  'motion',
  'sidecar',
  'look',
  'thumbnail',
  'cameraProxy',
  'proxy',
  'transcode',
  'rewrap',
]);
export type FileRole = z.infer<typeof FileRole>;

export const ROLE_WORDS: Record<FileRole, string> = {
  original: 'original',
  segment: 'further segment',
  still: 'further still',
  sound: 'its sound',
  motion: 'its moving picture',
  sidecar: 'sidecar',
  look: 'look',
  thumbnail: 'thumbnail',
  cameraProxy: 'camera-made proxy',
  proxy: 'made proxy',
  transcode: 'transcode',
  rewrap: 'rewrap',
};

/** What Sort Shelf makes of a clip. */
export const MADE_ROLES = ['proxy', 'transcode', 'rewrap'] as const satisfies readonly FileRole[];
export const isMade = (role: FileRole): boolean => MADE_ROLES.some((r) => r === role);

/** Whether a file may stand for its clip in the edit: a proxy, and anything else that was made where a person chose it. */
export const mayStand = (role: FileRole, chosen: boolean): boolean =>
  role === 'proxy' || role === 'cameraProxy' || (chosen && isMade(role));

/** What a clip is: moving picture, numbered stills shown as one, a single picture, a sound recording. */
export const ClipKind = z.enum(['video', 'stills', 'still', 'sound']);
export type ClipKind = z.infer<typeof ClipKind>;

/** Whether a file holds part of the recording itself, not something beside it. */
export const isRecording = (role: FileRole): boolean =>
  ['original', 'segment', 'still', 'sound', 'motion'].includes(role);

/** Whether a clip has moving picture, and so can have a proxy. */
export const isMoving = (kind: ClipKind): boolean => kind === 'video' || kind === 'stills';

export const KIND_WORDS: Record<ClipKind, string> = {
  video: 'video',
  stills: 'numbered stills',
  still: 'still',
  sound: 'sound recording',
};

/** Extensions of files that can be clips, lower case, without the dot. */
export interface FileTypes {
  video: readonly string[];
  still: readonly string[];
  raw: readonly string[];
  sound: readonly string[];
}

const TYPE = /%(video|still|raw|sound)%/g;

/** A pattern with its words for kinds of files (`%video%`) replaced by what the type list holds. */
export const expandPattern = (pattern: string, types: FileTypes): string =>
  pattern.replace(TYPE, (_, t: keyof FileTypes) =>
    types[t].length > 0 ? `(?:${types[t].join('|')})` : '(?!)',
  );

const pattern = z
  .string()
  .max(500)
  .refine((p) => {
    try {
      new RegExp(p.replace(TYPE, 'x'), 'iu');
      return true;
    } catch {
      return false;
    }
  }, 'this is no regular expression');

/**
 * A card shape: how one kind of card lays out its files. Data, not code: shapes can be written to and read from JSON.
 * Patterns are regular expressions over the path below the card's folder, "/" between the parts, tried without case.
 * `%video%`, `%still%`, `%raw%` and `%sound%` stand for the extensions of the type list.
 */
export const CardShape = z.object({
  id: z.string().regex(/^[a-z0-9-]+$/, 'lower case letters, digits and dashes'),
  /** What the person reads: "a folder per clip". */
  name: z.string().min(1).max(120),
  /** From what it was recognised, in words. */
  because: z.string().min(1).max(300),
  /** Each must match at least one file. */
  marks: z.array(pattern).min(1).max(20),
  /**
   * First match wins. The group `stem` is the clip's name; for files beside the original it may be longer than the
   * clip's own. The group `part` is the number of a segment, `suffix` what is behind the stem where the whole name is
   * no clip's. A file of video that no rule covers means that this is not the shape, unless its folders are fixed or most
   * of the card is of it.
   */
  rules: z
    .array(z.object({ pattern, role: FileRole }))
    .min(1)
    .max(60),
  /** Whether a take too long for one file goes on under the next number. */
  follows: z.boolean().default(false),
  /** Whether the names of its folders are fixed and tell it alone: whatever else is beside them is on the same card. */
  fixedFolders: z.boolean().default(false),
});
export type CardShape = z.infer<typeof CardShape>;

const BESIDE = String.raw`(?<stem>[^/]+)\.`;
const DCF_FOLDER = String.raw`^(?:dcim/)?[1-9]\d\d[0-9a-z_]{5}/`;
const DCF_NAME = String.raw`(?<stem>[0-9a-z_]{4}(?!0000)\d{4})\.`;
/** A clip's own folder, whose name may carry an extension. */
const CLIP_FOLDER = String.raw`^(?<stem>[^/]+?)(?:\.[a-z0-9]{2,5})?/`;
/** Folders whose video is made by the camera of what is elsewhere. */
export const PROXY_FOLDER = 'prox(?:y|ies)|sub';
const STREAM = String.raw`^(?:private/)?(?:avchd/)?(?:bdmv/)?`;

/** The shapes the product ships, most particular first. `plain` is the fallback and takes any folder with footage in it. */
export const SHAPES: readonly CardShape[] = [
  {
    id: 'clip-and-sub',
    name: 'CLIP and SUB folders',
    because: 'video is in a CLIP folder, proxies if there are any in SUB',
    marks: [String.raw`^clip/[^/]+\.%video%$`],
    rules: [
      { pattern: String.raw`^clip/${BESIDE}%video%$`, role: 'original' },
      { pattern: String.raw`^(?:clip|sub)/${BESIDE}xml$`, role: 'sidecar' },
      { pattern: String.raw`^sub/${BESIDE}%video%$`, role: 'cameraProxy' },
      { pattern: String.raw`^(?:clip|thmbnl)/${BESIDE}(?:jpg|thm)$`, role: 'thumbnail' },
    ],
    follows: false,
    fixedFolders: true,
  },
  {
    id: 'op-atom',
    name: 'CONTENTS folders',
    because: 'picture and sound are apart in CONTENTS/VIDEO and CONTENTS/AUDIO',
    marks: [String.raw`^contents/video/[^/]+\.mxf$`],
    rules: [
      { pattern: String.raw`^contents/video/${BESIDE}mxf$`, role: 'original' },
      { pattern: String.raw`^contents/audio/(?<stem>[^/]+?)(?<suffix>\d\d)?\.mxf$`, role: 'sound' },
      { pattern: String.raw`^contents/clip/${BESIDE}xml$`, role: 'sidecar' },
      { pattern: String.raw`^contents/icon/${BESIDE}(?:bmp|jpg)$`, role: 'thumbnail' },
      { pattern: String.raw`^contents/proxy/${BESIDE}(?:mp4|mov)$`, role: 'cameraProxy' },
      {
        pattern: String.raw`^contents/(?:voice|proxy)/(?<stem>[^/]+?)(?<suffix>\d\d)?\.(?:wav|bin|xml)$`,
        role: 'sidecar',
      },
    ],
    follows: false,
    fixedFolders: true,
  },
  {
    id: 'stream',
    name: 'a STREAM folder (AVCHD)',
    because: 'video is in STREAM under five digits, its index beside it in CLIPINF',
    marks: [String.raw`${STREAM}stream/\d{5}\.m2?ts$`],
    rules: [
      { pattern: String.raw`${STREAM}stream/(?<stem>\d{5})\.m2?ts$`, role: 'original' },
      { pattern: String.raw`${STREAM}clipinf/(?<stem>\d{5})\.cpi$`, role: 'sidecar' },
    ],
    follows: true,
    fixedFolders: true,
  },
  {
    id: 'dcf',
    name: 'DCIM folders (DCF)',
    because: 'files named by four characters and four digits are in numbered folders below DCIM',
    marks: [String.raw`${DCF_FOLDER}[0-9a-z_]{4}(?!0000)\d{4}\.(?:%video%|%still%|%raw%)$`],
    rules: [
      { pattern: String.raw`${DCF_FOLDER}${DCF_NAME}(?:%video%|%still%|%raw%)$`, role: 'original' },
      { pattern: String.raw`${DCF_FOLDER}${DCF_NAME}thm$`, role: 'thumbnail' },
      { pattern: String.raw`${DCF_FOLDER}${DCF_NAME}(?:srt|xml|%sound%)$`, role: 'sidecar' },
    ],
    follows: true,
    fixedFolders: true,
  },
  {
    id: 'folder-per-clip',
    name: 'a folder per clip',
    because: 'each clip is in a folder of its own name, long takes in numbered segments',
    marks: [
      String.raw`^(?<folder>[^/]+?)(?:\.[a-z0-9]{2,5})?/\k<folder>(?:(?:[_-]\d{1,4})?\.%video%|[_-]\d{4,9}\.(?:%still%|%raw%))$`,
    ],
    rules: [
      { pattern: String.raw`${CLIP_FOLDER}\k<stem>(?<part>[_-]\d{1,4})?\.%video%$`, role: 'original' },
      {
        pattern: String.raw`^(?<folder>[^/]+?)(?:\.[a-z0-9]{2,5})?/(?<stem>\k<folder>[_-]\d{4,9})\.(?:%still%|%raw%)$`,
        role: 'original',
      },
      { pattern: String.raw`${CLIP_FOLDER}\k<stem>(?<suffix>[_-][a-z]\w*)\.%video%$`, role: 'cameraProxy' },
      { pattern: String.raw`^[^/]+/(?:${PROXY_FOLDER})/${BESIDE}%video%$`, role: 'cameraProxy' },
      { pattern: String.raw`${CLIP_FOLDER}\k<stem>(?<suffix>[_-]\w+)?\.%sound%$`, role: 'sound' },
      { pattern: String.raw`^[^/]+/${BESIDE}(?:cdl|cc|ccc|cube)$`, role: 'look' },
      { pattern: String.raw`^[^/]+/${BESIDE}xml$`, role: 'sidecar' },
      { pattern: String.raw`^[^/]+/${BESIDE}(?:jpg|thm)$`, role: 'thumbnail' },
    ],
    follows: true,
    fixedFolders: false,
  },
  {
    id: 'numbered-stills',
    name: 'a folder of numbered stills',
    because: 'pictures whose names count up are in it, and no video',
    marks: [String.raw`^[^/]*\d{3,}\.(?:%still%|%raw%)$`],
    rules: [
      { pattern: String.raw`^${BESIDE}(?:%still%|%raw%)$`, role: 'original' },
      { pattern: String.raw`^${BESIDE}(?:xml|xmp)$`, role: 'sidecar' },
    ],
    follows: false,
    fixedFolders: false,
  },
  {
    id: 'sound-folder',
    name: 'a folder of sound recordings',
    because: 'sound files are in it, and no picture',
    marks: [String.raw`^[^/]+\.%sound%$`],
    rules: [
      { pattern: String.raw`^${BESIDE}%sound%$`, role: 'original' },
      { pattern: String.raw`^${BESIDE}xml$`, role: 'sidecar' },
    ],
    follows: false,
    fixedFolders: false,
  },
  {
    id: 'plain',
    name: 'a plain folder',
    because: 'clips without a card layout',
    marks: [String.raw`^(?:[^/]+/)*[^/]+\.(?:%video%|%still%|%raw%|%sound%)$`],
    rules: [
      { pattern: String.raw`^(?:[^/]+/)*(?:${PROXY_FOLDER})/${BESIDE}%video%$`, role: 'cameraProxy' },
      { pattern: String.raw`^(?:[^/]+/)*${BESIDE}(?:%video%|%still%|%raw%|%sound%)$`, role: 'original' },
      { pattern: String.raw`^(?:[^/]+/)*${BESIDE}(?:xml|srt|xmp)$`, role: 'sidecar' },
      { pattern: String.raw`^(?:[^/]+/)*${BESIDE}(?:cdl|cc|ccc|cube)$`, role: 'look' },
      { pattern: String.raw`^(?:[^/]+/)*${BESIDE}(?:thm)$`, role: 'thumbnail' },
    ],
    follows: false,
    fixedFolders: false,
  },
];

/** The last extension without its dot, lower case; "" where there is none. A leading dot is no extension. */
export function extensionOf(path: string): string {
  const name = path.slice(path.lastIndexOf('/') + 1);
  const dot = name.lastIndexOf('.');
  return dot <= 0 ? '' : name.slice(dot + 1).toLowerCase();
}

/** What the type list says a file is; `null` where it lists no such extension. */
export function typeOf(path: string, types: FileTypes): keyof FileTypes | null {
  const extension = extensionOf(path);
  return (['video', 'still', 'raw', 'sound'] as const).find((t) => types[t].includes(extension)) ?? null;
}
