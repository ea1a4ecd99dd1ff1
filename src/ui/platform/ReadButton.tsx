'use client';
import Button from '@mui/material/Button';
import { useRef } from 'react';
import { type Decoded, decodeText } from '../../core/platform/decode';
import { FileInput } from './FileInput';

/** Bytes of a text that is sent; larger ones are refused before they are read. */
const LARGEST = 8_000_000;
/** Lists as spreadsheets save them. */
export const LIST_FILES = '.csv,.tsv,.txt,text/csv,text/plain';

/** A text that was chosen, with the file's name. */
export interface TextFile extends Decoded {
  file: string;
}

/** The text of a file, in whichever encoding another program wrote it. Throws, in words for a person, where it is too large: `next` is what to do then. */
export async function textOf(file: File, next: string, most = LARGEST): Promise<TextFile> {
  if (file.size > most) throw new Error(`${file.name} is larger than ${most / 1e6} MB: ${next}.`);
  return { file: file.name, ...decodeText(new Uint8Array(await file.arrayBuffer())) };
}

/** Which file was read, and what to look at where its encoding was guessed. */
export const ReadAs = ({ file, as }: Pick<TextFile, 'file' | 'as'>) => (
  <>
    <b>{file}</b>
    {as === 'Windows-1252' && ' was read as Windows-1252: look at its accents.'}
  </>
);

/** Chooses a file to be read. */
export function ReadButton({
  first = true,
  busy = false,
  label,
  accept,
  read,
}: {
  /** Whether there is nothing more urgent to be done. */
  first?: boolean;
  busy?: boolean;
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
