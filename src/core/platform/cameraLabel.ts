import * as z from 'zod';

/** What a camera is called on a job: "A", "B2", "DRON". Its cards are called after it. */
export const CameraLabel = z
  .string()
  .regex(/^[A-Z0-9]{1,4}$/, 'a camera is one to four capital letters or digits');

/** What a person types, as a label. */
export const asCameraLabel = (typed: string): string => typed.trim().toUpperCase().slice(0, 4);
