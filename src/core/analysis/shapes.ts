import * as z from 'zod';
import { Finding } from './findings';

const Decibels = z.number().nullable();

/** What was seen of a clip when all of it was decoded once. */
export const Analysis = z.object({
  findings: z.array(Finding),
  /** Of each audio channel, decibels below full scale; null where there is nothing at all. */
  levels: z.array(z.object({ peak: Decibels, mean: Decibels })),
});
export type Analysis = z.infer<typeof Analysis>;

/** The waveform of a clip: of each audio channel the highest value of each part, from 0 to 255. */
export const Waveform = z.object({
  /** Seconds. */
  length: z.number(),
  channels: z.array(z.array(z.int().min(0).max(255))),
});
export type Waveform = z.infer<typeof Waveform>;
