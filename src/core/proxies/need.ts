import * as z from 'zod';
import { fps, formatRate, type Rate } from '../platform/timecode/rate';
import { LIGHT, Recipe } from './recipe';

/** What makes a clip heavy to edit. One that is met is enough; a limit that is null is none. */
export const NeedRule = z.strictObject({
  /** Every clip needs one, whatever it is. */
  all: z.boolean(),
  /** Coded by what changes between frames, of which an editing program decodes many to show one. */
  interFrame: z.boolean(),
  /** Codecs that need one by their name. */
  codecs: z.array(z.string().min(1).max(40)).max(40),
  /** Chroma of 4:2:2 or finer, where coded between frames: few graphics chips decode it. */
  fineChroma: z.boolean(),
  /** Bits a sample from which on one is needed. */
  bits: z.int().min(8).max(32).nullable(),
  /** Sides beyond which one is needed, whichever way the picture stands. Pixels. */
  larger: z
    .strictObject({ width: z.int().min(16).max(32_768), height: z.int().min(16).max(32_768) })
    .nullable(),
  /** Frames a second above which one is needed. */
  faster: z.number().min(1).max(1000).nullable(),
  /** Bits a second above which one is needed. */
  bitRate: z.int().min(100_000).max(100_000_000_000).nullable(),
});
export type NeedRule = z.infer<typeof NeedRule>;

/** Common practice: what is coded between frames, and what is larger, faster or heavier than most machines play freely. */
export const DEFAULT_NEED: NeedRule = {
  all: false,
  interFrame: true,
  codecs: [],
  fineChroma: true,
  bits: null,
  larger: { width: 2048, height: 1152 },
  faster: 60,
  bitRate: 250_000_000,
};

/** Which clips a recipe is for; an empty list is any. */
export const RecipeScope = z.strictObject({
  cameras: z.array(z.string().max(40)).max(100),
  rates: z.array(z.string().max(20)).max(40),
  codecs: z.array(z.string().max(40)).max(40),
});
export type RecipeScope = z.infer<typeof RecipeScope>;

/** How a job makes its proxies: what needs one, and by which recipe. */
export const ProxyRules = z.strictObject({
  need: NeedRule,
  recipe: Recipe,
  /** Whether proxies of what needs one are made by themselves, as soon as clips are read; while a card is being copied, each once it is verified. */
  byItself: z.boolean().optional(),
  /** The first whose scope fits counts. */
  rules: z
    .array(z.strictObject({ id: z.string().min(1).max(40), scope: RecipeScope, recipe: Recipe }))
    .max(40),
});
export type ProxyRules = z.infer<typeof ProxyRules>;

export const DEFAULT_PROXIES: ProxyRules = { need: DEFAULT_NEED, recipe: LIGHT, rules: [] };

/** Of a clip, as far as it is known: `null` where it states nothing of the kind. */
export interface NeedFacts {
  camera: string;
  codec: string | null;
  allIntra: boolean | null;
  chroma: string | null;
  bitDepth: number | null;
  width: number | null;
  height: number | null;
  rate: Rate | null;
  /** Bits a second. */
  bitRate: number | null;
}

/** Codecs of which each frame stands by itself, whatever the file says. */
const INTRA = [
  'ProRes',
  'VC-3',
  'Motion JPEG',
  'ffv1',
  'jpeg2000',
  'rawvideo',
  'v210',
  'cfhd',
  'dvvideo',
  'exr',
  'dpx',
  'tiff',
  'png',
];

/** Whether frames need others to be decoded; what is not known counts as it. */
export const isInterFrame = ({ codec, allIntra }: Pick<NeedFacts, 'codec' | 'allIntra'>): boolean =>
  allIntra !== true && !(codec !== null && INTRA.some((c) => c.toLowerCase() === codec.toLowerCase()));

/** By which recipe a clip's proxy is made. */
export function recipeFor(
  { recipe, rules }: ProxyRules,
  { camera, rate, codec }: Pick<NeedFacts, 'camera' | 'rate' | 'codec'>,
): Recipe {
  const fits = (list: readonly string[], value: string | null): boolean =>
    list.length === 0 || (value !== null && list.includes(value));
  const found = rules.find(
    ({ scope }) =>
      fits(scope.cameras, camera) && fits(scope.rates, rate && formatRate(rate)) && fits(scope.codecs, codec),
  );
  return found?.recipe ?? recipe;
}

/** What a clip is, in the words in which its need is said: "long-GOP HEVC 4:2:2 10 bit, 3840×2160, 100 fps". */
function wordsOf(f: NeedFacts, interFrame: boolean): string {
  const picture = [
    f.codec === null ? null : `${interFrame ? 'long-GOP ' : ''}${f.codec}`,
    f.chroma,
    f.bitDepth === null ? null : `${f.bitDepth} bit`,
  ];
  return [
    picture.filter((p) => p !== null).join(' '),
    f.width && f.height ? `${f.width}×${f.height}` : '',
    f.rate ? `${formatRate(f.rate)} fps` : '',
  ]
    .filter((t) => t !== '')
    .join(', ');
}

/** What of a rule a clip meets, in words; empty where it is light. */
export function heavinessOf(rule: NeedRule, f: NeedFacts): string[] {
  const between = isInterFrame(f);
  const long = Math.max(f.width ?? 0, f.height ?? 0);
  const short = Math.min(f.width ?? 0, f.height ?? 0);
  const { larger } = rule;
  const met: [boolean, string][] = [
    [rule.all, 'every clip is to have one'],
    [rule.interFrame && between, 'coded between frames'],
    [f.codec !== null && rule.codecs.includes(f.codec), `${f.codec} is to have one`],
    [rule.fineChroma && between && (f.chroma === '4:2:2' || f.chroma === '4:4:4'), `chroma ${f.chroma}`],
    [rule.bits !== null && (f.bitDepth ?? 0) >= rule.bits, `${f.bitDepth} bit`],
    [
      larger !== null &&
        (long > Math.max(larger.width, larger.height) || short > Math.min(larger.width, larger.height)),
      larger ? `larger than ${larger.width}×${larger.height}` : '',
    ],
    [rule.faster !== null && f.rate !== null && fps(f.rate) > rule.faster, `faster than ${rule.faster} fps`],
    [
      rule.bitRate !== null && (f.bitRate ?? 0) > rule.bitRate,
      `more than ${Math.round((rule.bitRate ?? 0) / 1e6)} Mbit/s`,
    ],
  ];
  return met.flatMap(([is, words]) => (is ? [words] : []));
}

export interface Standing {
  readable: boolean;
  hasProvenProxy: boolean;
  hasCameraProxy: boolean;
}
export interface Need {
  needed: boolean;
  because: string;
}

/** Whether a clip needs a proxy, and why; a camera-made one that matches is enough. */
export function needsProxy(rule: NeedRule, clip: Standing, facts: NeedFacts): Need {
  if (!clip.readable) return { needed: false, because: 'the original cannot be read' };
  if (clip.hasProvenProxy) return { needed: false, because: 'a proven proxy stands beside it' };
  const met = heavinessOf(rule, facts);
  const what = wordsOf(facts, isInterFrame(facts));
  if (met.length === 0) return { needed: false, because: `${what}: light enough as it is` };
  const why = clip.hasCameraProxy ? ['the camera-made proxy does not prove'] : [];
  return { needed: true, because: `${what}: ${[...met, ...why].join(', ')}` };
}
