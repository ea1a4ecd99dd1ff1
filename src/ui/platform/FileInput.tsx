'use client';
import type { RefObject } from 'react';

/** A file that a person chooses; it is shown by a button or menu item that clicks it. `accept` as in HTML. */
export const FileInput = ({
  ref,
  label,
  accept,
  read,
}: {
  ref: RefObject<HTMLInputElement | null>;
  label: string;
  accept: string;
  read: (chosen: File) => void;
}) => (
  <input
    ref={ref}
    type="file"
    accept={accept}
    hidden
    aria-label={label}
    onChange={(e) => {
      const [chosen] = e.target.files ?? [];
      // The same one may be chosen again.
      e.target.value = '';
      if (chosen) read(chosen);
    }}
  />
);
