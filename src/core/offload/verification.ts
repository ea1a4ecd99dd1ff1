import * as z from 'zod';

/** How a copy is proven. */
export const Verification = z.enum(['contents', 'contentsTwice', 'sizes']);
export type Verification = z.infer<typeof Verification>;

/** What each way catches, in the words the person reads before choosing. */
export const VERIFICATION_WORDS: Record<Verification, { name: string; catches: string }> = {
  contents: {
    name: 'Contents',
    catches:
      'Every copy is read back and compared with what was read from the card. Catches anything that goes wrong in writing.',
  },
  contentsTwice: {
    name: 'Contents, card read twice',
    catches:
      'As Contents, and every file is read from the card a second time. Also catches a reader or cable that gives wrong bytes once.',
  },
  sizes: {
    name: 'Sizes only',
    catches:
      'Only lengths are compared. Catches a copy cut short, not a wrong byte. Does not count towards wiping the card.',
  },
};

/** Bytes per second that the estimate assumes before anything was measured: a common card reader, and a common drive. */
const ASSUMED = { read: 150e6, readBack: 400e6 };

/**
 * Seconds a copy will take. Reading and writing go on together; reading back follows one file behind and takes the other
 * core. `measured` is bytes of the source per second of the last copy that was verified in the same way, `null` before one.
 */
export function copySeconds(
  bytes: number,
  copies: number,
  verification: Verification,
  measured: number | null,
): number {
  if (measured !== null && measured > 0) return bytes / measured;
  const read = bytes / ASSUMED.read;
  if (verification === 'sizes') return read;
  const back = (bytes * copies) / ASSUMED.readBack;
  return Math.max(read, back) * 1.05 + (verification === 'contentsTwice' ? read : 0);
}
