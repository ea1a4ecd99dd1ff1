'use client';
import Button from '@mui/material/Button';
import { type ComponentProps, useRef } from 'react';
import type { z } from 'zod';
import { FileInput } from './FileInput';
import { textOf } from './ReadButton';

/** A JSON file that a person chooses. */
export const JsonFile = (props: Omit<ComponentProps<typeof FileInput>, 'accept'>) => (
  <FileInput {...props} accept="application/json,.json" />
);

/** What a chosen file holds. Throws, in words for a person, where it is no JSON. */
export async function readJson(chosen: File): Promise<unknown> {
  const { text } = await textOf(chosen, 'no file of Sort Shelf’s is');
  try {
    return JSON.parse(text) as unknown;
  } catch {
    throw new Error(`${chosen.name} is not JSON: it may be cut short. Nothing was taken from it.`);
  }
}

/** The same in its shape. Throws, in words for a person, where it is another; `what` it should hold, as “recipes”. */
export async function readShaped<T>(chosen: File, shape: z.ZodType<T>, what: string): Promise<T> {
  const file = shape.safeParse(await readJson(chosen));
  if (file.success) return file.data;
  const [issue] = file.error.issues;
  throw new Error(
    `${chosen.name} holds no ${what} Sort Shelf can read (${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}). Nothing was taken from it.`,
  );
}

/** The address of something of the library as a JSON file that is saved: `what` it is one of, as “recipes”. */
export const savedAs = (what: string, one: unknown): string =>
  `data:application/json;charset=utf-8,${encodeURIComponent(
    JSON.stringify({ format: `sort-shelf-${what}`, version: 1, [what]: [one] }, null, 2),
  )}`;

/** A button by which a JSON file is chosen; `label` says what of. */
export function ImportButton({ label, read }: { label: string; read: (chosen: File) => void }) {
  const file = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button color="inherit" onClick={() => file.current?.click()}>
        Import a file …
      </Button>
      <JsonFile ref={file} label={label} read={read} />
    </>
  );
}
