import * as z from 'zod';
import type { Timecode } from '../platform/timecode/timecode';

/** How the picture is coded, by the published standards' names. */
const Video = z.discriminatedUnion('codec', [
  /** ITU-T H.264, 8 bit 4:2:0: constant quality, 0 (best) to 51, or an average in bits a second where one is given. */
  z.strictObject({
    codec: z.literal('h264'),
    quality: z.int().min(0).max(51),
    bitRate: z.int().min(50_000).max(400_000_000).nullable(),
  }),
  /** SMPTE RDD 36, 10 bit 4:2:2. */
  z.strictObject({ codec: z.literal('prores'), grade: z.enum(['proxy', 'lt', 'standard', 'high']) }),
  /** SMPTE ST 2019-1 in any size: low bandwidth, standard and high quality in 8 bit, high quality in 10 bit, all 4:2:2. */
  z.strictObject({ codec: z.literal('vc3'), grade: z.enum(['low', 'standard', 'high', 'high10']) }),
  /** ISO/IEC 10918-1, a picture a frame, 8 bit 4:2:2 in full range; 2 (best) to 31. */
  z.strictObject({ codec: z.literal('mjpeg'), quality: z.int().min(2).max(31) }),
  /** The streams as they are. */
  z.strictObject({ codec: z.literal('copy') }),
]);

const Size = z.discriminatedUnion('fit', [
  z.strictObject({ fit: z.literal('same') }),
  z.strictObject({ fit: z.literal('half') }),
  z.strictObject({ fit: z.literal('quarter') }),
  /** Made to fit in this box, never enlarged. Pixels. */
  z.strictObject({
    fit: z.literal('box'),
    width: z.int().min(16).max(16_384),
    height: z.int().min(16).max(16_384),
  }),
]);
export type Size = z.infer<typeof Size>;

/** Part of a file's name or a folder: nothing that any file system refuses. */
const Words = z
  .string()
  .max(60)

  .regex(
    /^[^\u0000-\u001f/\\:*?"<>|]*$/,
    'words of a name hold no / \\ : * ? " < > | and no control characters',
  )
  .refine((w) => !/^\s|[\s.]$/.test(w), 'words of a name begin with no space and end with no space or dot');

const Shape = z.strictObject({
  name: z.string().trim().min(1).max(80),
  /** What it is for: a light stand-in, a file for programs that cannot read the camera's own, or the same streams in another container. */
  purpose: z.enum(['proxy', 'transcode', 'rewrap']),
  video: Video,
  container: z.enum(['mp4', 'mov', 'mxf']),
  size: Size,
  audio: z.strictObject({
    codec: z.enum(['aac', 'pcm', 'copy', 'none']),
    /** Bits a second of each channel, of AAC. */
    bitRate: z.int().min(16_000).max(320_000),
    /** Channels that are kept, counted from 1 through all streams; all of them where it is null. */
    channels: z.array(z.int().min(1).max(256)).min(1).max(64).nullable(),
  }),
  /** What becomes of the fields of an interlaced picture: each two made one frame, or both kept. */
  interlaced: z.enum(['deinterlaced', 'kept']),
  /** Whether pixels that are not square are made so, or kept. */
  pixels: z.enum(['square', 'kept']),
  /** Whether the clip's own look is applied to the picture, where it has one. */
  look: z.boolean(),
  /** What is written into the picture. */
  burn: z.strictObject({ name: z.boolean(), timecode: z.boolean() }),
  /** Put after the original's stem, in the name of the file. */
  words: Words,
  /** In the root of proxies: where the original is in its own, or all in one folder; or beside the original. */
  place: z.discriminatedUnion('at', [
    z.strictObject({ at: z.literal('tree') }),
    z.strictObject({ at: z.literal('beside') }),
    z.strictObject({
      at: z.literal('folder'),
      folder: Words.min(1).refine((w) => !w.startsWith('.'), 'a folder begins with no dot'),
    }),
  ]),
});

/** How a proxy, transcode or rewrap is made. */
export const Recipe = Shape.superRefine((recipe, context) => {
  for (const message of faultsOf(recipe)) context.addIssue({ code: 'custom', message });
});
export type Recipe = z.infer<typeof Shape>;

/** A recipe as it is followed for one clip. No recipe of a person says at which timecode a file begins: that is the original's. */
export interface Followed extends Recipe {
  /** The timecode of its first frame, where that is not to be the original's. */
  startsAt?: Timecode;
}

/** The timecode of the first frame of what a recipe makes: the original's, unless it says another. */
export const startOfMade = <T extends { start: Timecode | null }>(of: T, recipe: Followed | null): T =>
  recipe?.startsAt ? { ...of, start: recipe.startsAt } : of;

/** Whether two recipes say the same, however they are written down. */
export const sameRecipe = (a: Recipe, b: Recipe): boolean =>
  JSON.stringify(Shape.parse(a)) === JSON.stringify(Shape.parse(b));

/** Why a recipe cannot be followed, whatever the clip, in sentences; empty where it can. Containers hold what FFmpeg writes into them. */
export function faultsOf({
  purpose,
  video,
  container,
  audio,
  interlaced,
  burn,
  look,
  size,
  words,
  place,
}: Recipe): string[] {
  const faults: [boolean, string][] = [
    [
      (purpose === 'rewrap') !== (video.codec === 'copy'),
      'A rewrap keeps the picture as it is, and nothing else does.',
    ],
    [
      video.codec === 'copy' && (burn.name || burn.timecode || look || size.fit !== 'same'),
      'A picture that is kept as it is takes no other size, no look and nothing written into it.',
    ],
    [container === 'mp4' && !['h264', 'copy'].includes(video.codec), 'MP4 is made with H.264 only.'],
    [
      container === 'mxf' && !['vc3', 'prores', 'copy'].includes(video.codec),
      'MXF is made with VC-3 or ProRes only.',
    ],
    [
      container === 'mp4' && audio.codec === 'pcm',
      'MP4 is made with AAC sound: choose MOV for sound without compression.',
    ],
    [container === 'mxf' && audio.codec === 'aac', 'MXF is made with sound that is not compressed.'],
    [audio.codec === 'copy' && video.codec !== 'copy', 'Sound is kept as it is in a rewrap only.'],
    [
      audio.codec === 'copy' && audio.channels !== null,
      'Sound that is kept as it is keeps all its channels.',
    ],
    [
      interlaced === 'kept' && !['h264', 'prores', 'copy'].includes(video.codec),
      'Fields are kept in H.264 and ProRes only.',
    ],
    [
      place.at === 'beside' && words === '',
      'What is made beside the original needs words in its name, or it could have the name of the original.',
    ],
  ];
  return faults.flatMap(([is, fault]) => (is ? [fault] : []));
}

const light: Omit<Recipe, 'name' | 'video' | 'container' | 'audio'> = {
  purpose: 'proxy',
  size: { fit: 'box', width: 960, height: 540 },
  interlaced: 'deinterlaced',
  pixels: 'square',
  look: false,
  burn: { name: false, timecode: false },
  words: '',
  place: { at: 'tree' },
};
const edit: Pick<Recipe, 'purpose' | 'size' | 'interlaced' | 'pixels' | 'words'> = {
  purpose: 'transcode',
  size: { fit: 'same' },
  interlaced: 'deinterlaced',
  pixels: 'kept',
  words: '_edit',
};
const pcm: Recipe['audio'] = { codec: 'pcm', bitRate: 96_000, channels: null };
const copied: Recipe['audio'] = { ...pcm, codec: 'copy' };

/** Light, and playable in a browser. */
export const LIGHT: Recipe = {
  ...light,
  name: 'H.264 in MP4, fits in 960×540',
  video: { codec: 'h264', quality: 23, bitRate: null },
  container: 'mp4',
  audio: { codec: 'aac', bitRate: 96_000, channels: null },
};

/** Recipes that are always there. */
export const READY_RECIPES: readonly Recipe[] = [
  LIGHT,
  {
    ...light,
    name: 'ProRes proxy in MOV, half size',
    video: { codec: 'prores', grade: 'proxy' },
    container: 'mov',
    size: { fit: 'half' },
    audio: pcm,
  },
  {
    ...light,
    name: 'VC-3 low bandwidth in MXF, half size',
    video: { codec: 'vc3', grade: 'low' },
    container: 'mxf',
    size: { fit: 'half' },
    audio: pcm,
  },
  {
    ...light,
    name: 'Motion JPEG in MOV, quarter size',
    video: { codec: 'mjpeg', quality: 4 },
    container: 'mov',
    size: { fit: 'quarter' },
    audio: pcm,
  },
  {
    ...light,
    name: 'For viewing, with name and timecode',
    video: { codec: 'h264', quality: 20, bitRate: null },
    container: 'mp4',
    size: { fit: 'box', width: 1280, height: 720 },
    audio: { codec: 'aac', bitRate: 96_000, channels: [1, 2] },
    look: true,
    burn: { name: true, timecode: true },
    words: '_view',
    place: { at: 'folder', folder: 'For viewing' },
    purpose: 'transcode',
  },
  {
    ...light,
    ...edit,
    name: 'ProRes LT in MOV, same size',
    video: { codec: 'prores', grade: 'lt' },
    container: 'mov',
    audio: pcm,
  },
  {
    ...light,
    ...edit,
    name: 'VC-3 high quality, 10 bit, in MXF, same size',
    video: { codec: 'vc3', grade: 'high10' },
    container: 'mxf',
    audio: pcm,
  },
  {
    ...light,
    ...edit,
    name: 'Rewrap in MOV',
    purpose: 'rewrap',
    video: { codec: 'copy' },
    container: 'mov',
    interlaced: 'kept',
    audio: copied,
    words: '_rewrap',
  },
  {
    ...light,
    ...edit,
    name: 'Rewrap in MP4',
    purpose: 'rewrap',
    video: { codec: 'copy' },
    container: 'mp4',
    interlaced: 'kept',
    audio: copied,
    words: '_rewrap',
  },
];

const VIDEO_WORDS: Record<Recipe['video']['codec'], string> = {
  h264: 'H.264',
  prores: 'ProRes',
  vc3: 'VC-3',
  mjpeg: 'Motion JPEG',
  copy: 'picture as it is',
};
const GRADE_WORDS: Record<string, string> = {
  proxy: 'proxy',
  lt: 'LT',
  standard: 'standard quality',
  high: 'high quality',
  low: 'low bandwidth',
  high10: 'high quality, 10 bit',
};
const AUDIO_WORDS: Record<Recipe['audio']['codec'], string> = {
  aac: 'AAC',
  pcm: 'sound not compressed',
  copy: 'sound as it is',
  none: 'no sound',
};

/** What a recipe makes, in a line: "H.264, MP4, fits in 960×540, AAC". */
export function recipeWords({ video, container, size, audio, look, burn }: Recipe): string {
  const fit = {
    same: 'same size',
    half: 'half size',
    quarter: 'quarter size',
    box: size.fit === 'box' ? `fits in ${size.width}×${size.height}` : '',
  };
  return [
    `${VIDEO_WORDS[video.codec]}${'grade' in video ? ` ${GRADE_WORDS[video.grade]}` : ''}`,
    container.toUpperCase(),
    ...(video.codec === 'copy' ? [] : [fit[size.fit]]),
    `${AUDIO_WORDS[audio.codec]}${audio.channels ? ` of channels ${audio.channels.join(', ')}` : ''}`,
    ...(look ? ['look applied'] : []),
    ...(burn.name || burn.timecode
      ? [
          `${[...(burn.name ? ['name'] : []), ...(burn.timecode ? ['timecode'] : [])].join(' and ')} in the picture`,
        ]
      : []),
  ].join(', ');
}

/** How the sides of a frame change. */
const SCALE = { same: 1, half: 1 / 2, quarter: 1 / 4 } as const;

/** By how much a picture of these sides, in square pixels, is made smaller. */
const scaleOf = (width: number, height: number, size: Size): number =>
  size.fit === 'box' ? Math.min(1, size.width / width, size.height / height) : SCALE[size.fit];

/** Frame size a recipe makes of a picture in square pixels: shape kept, both sides even as chroma of half width and height needs, at least 2. */
export function fitSize(width: number, height: number, size: Size): { width: number; height: number } {
  const k = scaleOf(width, height, size);
  const even = (x: number) => Math.max(2, 2 * Math.round((x * k) / 2));
  return { width: even(width), height: even(height) };
}

/** Why a recipe makes nothing of a picture of this size, in a sentence; null where it does. VC-3's least sides are those of FFmpeg's encoder. */
export function sizeFault({ name, video, size }: Recipe, width: number, height: number): string | null {
  const to = fitSize(width, height, size);
  return video.codec === 'vc3' && (to.width < 256 || to.height < 120)
    ? `“${name}” would make a picture of ${to.width}×${to.height}; VC-3 is made from 256×120 on.`
    : null;
}

/** Why a rewrap cannot hold the sound of a clip, by its codec's name, in a sentence; null where it can. FFmpeg puts no PCM into MP4. */
export const soundFault = ({ name, video, container }: Recipe, codec: string | null): string | null =>
  video.codec === 'copy' && container === 'mp4' && codec?.startsWith('PCM') === true
    ? `“${name}” would put sound without compression into MP4, which takes none: choose MOV.`
    : null;

/** `fitSize` in FFmpeg's own words, of the picture as it comes: its shape is kept whatever was read of it. */
export function fitted(size: Size, pixels: Recipe['pixels']): string {
  const wide = pixels === 'square' ? 'iw*sar' : 'iw';
  const k =
    size.fit === 'box' ? `min(1,min(${size.width}/(iw*sar),${size.height}/ih))` : String(SCALE[size.fit]);
  const even = (side: string) => `'max(2,2*round(${side}*${k}/2))'`;
  return `w=${even(wide)}:h=${even('ih')}`;
}

/** What follows the original's stem in the name of what a recipe makes. */
export const tailOf = ({ words, container }: Recipe): string => `${words}.${container}`;

/** The one folder of its root that what a recipe makes stays in; null where it goes with its clip. */
export const fixedFolder = ({ place }: Recipe): string | null =>
  place.at === 'folder' ? place.folder : null;

/** Where what a recipe makes of a clip of this name goes, below the proxies or beside its original, to be shown. */
export const madeExample = (stem: string, recipe: Recipe): string =>
  [...(recipe.place.at === 'folder' ? [recipe.place.folder] : []), `${stem}${tailOf(recipe)}`].join('/');

/** Recipes as a file. */
export const RecipeFile = z.object({
  format: z.literal('sort-shelf-recipes'),
  version: z.literal(1),
  recipes: z.array(Recipe).min(1).max(200),
});
export type RecipeFile = z.infer<typeof RecipeFile>;

export const RecipesView = z.array(
  z.object({
    id: z.string(),
    ready: z.boolean(),
    recipe: Shape,
    /** Why the FFmpeg that is here cannot make it, in a sentence; null where it can. */
    cannot: z.string().nullable(),
  }),
);
export type RecipesView = z.infer<typeof RecipesView>;
