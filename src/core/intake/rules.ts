import * as z from 'zod';
import { CardShape, extensionOf } from './shape';
import { NextSteps } from '../next';
import { patternFault, DEFAULT_PATTERN, Verification } from '../offload';
import { ChosenHash } from '../hashLists';

export const FileType = z.enum(['video', 'still', 'raw', 'sound']);
export type FileType = z.infer<typeof FileType>;
export const FILE_TYPE_WORDS: Record<FileType, string> = {
  video: 'Video',
  still: 'Stills',
  raw: 'Camera raw stills',
  sound: 'Sound',
};

const extension = z
  .string()
  .trim()
  .toLowerCase()
  .regex(/^[a-z0-9]{1,8}$/, 'an extension is one to eight letters or digits, without its dot');

/** How one folder is looked at. */
export const FolderRule = z.object({
  /** Look through the folders a camera makes on its card; off, every folder is taken as it is. */
  skipCardFolders: z.boolean().default(true),
  /** Shapes that are not tried here. */
  off: z.array(z.string()).max(100).default([]),
});
export type FolderRule = z.infer<typeof FolderRule>;

const words = (...lists: string[]): string[] => lists.flatMap((l) => l.split(' '));

/** How cards are recognised and copied in this job. */
export const IntakeRules = z.object({
  /** What happens next with clips that are taken in, as it was asked for last: the steps, without marks. */
  next: NextSteps.prefault({}),
  /** Names of folders whose contents are left out. */
  leaveOut: z.array(z.string().trim().min(1).max(120)).max(200).default([]),
  types: z
    .object({
      video: z.array(extension),
      still: z.array(extension),
      raw: z.array(extension),
      sound: z.array(extension),
    })
    .default({
      video: words(
        'mp4 mov mxf m4v mts m2ts avi mkv webm mpg mpeg m2v ts tod mod vob 3gp 3g2 wmv asf flv ogv dv qt',
        'r3d braw ari arx crm rmf',
      ),
      still: words('jpg jpeg png tif tiff heic heif avif exr dpx bmp webp jxl hif jp2'),
      raw: words(
        'dng raw cr2 cr3 crw nef nrw arw sr2 srf raf rw2 rwl orf pef srw 3fr fff iiq x3f dcr kdc mrw erf mef mos',
      ),
      sound: words('wav bwf w64 rf64 aif aiff flac mp3 m4a caf ogg opus'),
    }),
  /** The person's own shapes, tried before those that are shipped. */
  shapes: z.array(CardShape).max(100).default([]),
  /** By root and path of a folder. */
  folders: z.record(z.string(), FolderRule).default({}),
  pattern: z
    .string()
    .max(200)
    .refine((p) => patternFault(p) === null, { error: (i) => patternFault(String(i.input)) ?? '' })
    .default(DEFAULT_PATTERN),
  verification: Verification.default('contents'),
  hash: ChosenHash.default('xxh128'),
  /** Pictures per second that numbered stills are shown at. */
  stillsRate: z.int().min(1).max(120).default(25),
});
export type IntakeRules = z.infer<typeof IntakeRules>;
export const DEFAULT_INTAKE: IntakeRules = IntakeRules.parse({});

/** Whether a name is one of a camera raw still, by the types that are shipped. */
export const isRawStill = (name: string): boolean => DEFAULT_INTAKE.types.raw.includes(extensionOf(name));
