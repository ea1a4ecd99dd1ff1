'use client';
import Button from '@mui/material/Button';
import { type ReactNode, useRef } from 'react';
import { type Decoded, decodeText } from '../../core/platform/decode';
import { FileInput } from '../platform/FileInput';
import styles from './handover.module.css';

/** A screen of a list with what is open beside it, onto which a file may be dropped. */
export const DropScreen = ({ read, children }: { read: (file: File) => void; children: ReactNode }) => (
  <div
    className={styles.screen}
    data-narrow
    onDragOver={(e) => e.preventDefault()}
    onDrop={(e) => {
      e.preventDefault();
      const [file] = e.dataTransfer.files;
      if (file) read(file);
    }}
  >
    {children}
  </div>
);

/** The text of a file, in whichever encoding another program wrote it. Throws, in words for a person, where it has more bytes than `most`. */
export async function textOf(file: File, most: number, next: string): Promise<Decoded> {
  if (file.size > most) throw new Error(`${file.name} is larger than ${most / 1e6} MB: ${next}.`);
  return decodeText(new Uint8Array(await file.arrayBuffer()));
}

/** Chooses a file to be read. */
export function ReadButton({
  first = true,
  busy,
  label,
  accept,
  read,
}: {
  /** Whether there is nothing more urgent to be done. */
  first?: boolean;
  busy: boolean;
  label: string;
  accept: string;
  read: (file: File) => void;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <>
      <Button
        size="small"
        variant={first ? 'contained' : 'outlined'}
        disabled={busy}
        onClick={() => input.current?.click()}
      >
        {busy ? 'Reading …' : 'Read one …'}
      </Button>
      <FileInput ref={input} label={label} accept={accept} read={read} />
    </>
  );
}
