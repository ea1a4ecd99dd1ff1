'use client';
import type { RefObject } from 'react';

/** A JSON file that a person chooses; it is shown by a button or menu item that clicks it. */
export const JsonFile = ({
  ref,
  label,
  read,
}: {
  ref: RefObject<HTMLInputElement | null>;
  label: string;
  read: (chosen: File) => void;
}) => (
  <input
    ref={ref}
    type="file"
    accept="application/json,.json"
    hidden
    aria-label={label}
    onChange={(e) => {
      const [chosen] = e.target.files ?? [];
      e.target.value = '';
      if (chosen) read(chosen);
    }}
  />
);

/** What a chosen file holds. Throws, in words for a person, where it is no JSON. */
export async function readJson(chosen: File): Promise<unknown> {
  const text = await chosen.text();
  try {
    return JSON.parse(text) as unknown;
  } catch {
    throw new Error(`${chosen.name} is not JSON: it may be cut short. Nothing was taken from it.`);
  }
}
