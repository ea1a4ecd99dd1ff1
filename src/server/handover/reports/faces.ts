import { create, type Font } from 'fontkit';
import type { TFontDictionary } from 'pdfmake/interfaces';
import { joinPath } from '../../platform/files/names';
import { readFile } from '../../platform/files/onDisk';

const MODULES = joinPath(process.cwd(), 'node_modules');
const source = (name: string): string => joinPath(MODULES, '@fontsource', name);
const wide = (name: string): string => joinPath(MODULES, 'dejavu-fonts-ttf/ttf', `DejaVu${name}.ttf`);

/** The faces of a report: of the application's own the letters of western Europe, then those of the rest of it, then a face of very many letters. */
const TEXT = 'atkinson-hyperlegible-next/files/atkinson-hyperlegible-next';
const EXACT = 'jetbrains-mono/files/jetbrains-mono';
export const FACES: TFontDictionary = {
  Text: { normal: source(`${TEXT}-latin-400-normal.woff`), bold: source(`${TEXT}-latin-700-normal.woff`) },
  TextMore: {
    normal: source(`${TEXT}-latin-ext-400-normal.woff`),
    bold: source(`${TEXT}-latin-ext-700-normal.woff`),
  },
  Exact: { normal: source(`${EXACT}-latin-400-normal.woff`), bold: source(`${EXACT}-latin-700-normal.woff`) },
  TextAll: { normal: wide('Sans'), bold: wide('Sans-Bold') },
  ExactAll: { normal: wide('SansMono'), bold: wide('SansMono-Bold') },
};
const CHAIN = { Text: ['Text', 'TextMore', 'TextAll'], Exact: ['Exact', 'ExactAll', 'TextAll'] } as const;
export type Face = keyof typeof CHAIN;

const opened = new Map<string, Font>();

/** Opens the faces, by which words are measured. Await it before `runsOf`. */
export async function openFaces(): Promise<void> {
  for (const [name, { normal }] of Object.entries(FACES)) {
    if (!opened.has(name)) opened.set(name, create(await readFile(normal as string)) as Font);
  }
}

/** A letter as it is drawn: by which font, and how wide, in parts of the letters' size. */
interface Letter {
  text: string;
  font: string;
  width: number;
}
const letters = new Map<string, Letter[]>();

/** One that no face has is written as its number, "[U+6D41]". */
function drawn(letter: string, face: Face): Letter[] {
  const key = `${face}${letter}`;
  const known = letters.get(key);
  if (known) return known;
  const code = letter.codePointAt(0)!;
  const name = CHAIN[face].find((f) => opened.get(f)!.hasGlyphForCodePoint(code));
  let made: Letter[];
  if (name) {
    const font = opened.get(name)!;
    made = [{ text: letter, font: name, width: font.glyphForCodePoint(code).advanceWidth / font.unitsPerEm }];
  } else {
    const number = code.toString(16).toUpperCase().padStart(4, '0');
    made = [...`[U+${number}]`].flatMap((l) => drawn(l, face));
  }
  letters.set(key, made);
  return made;
}

/** Words drawn by one font. */
export interface Run {
  text: string;
  font: string;
}

/**
 * Words as runs, each of one font that has its letters. A word that is wider than `width` points at `size` is broken: after what parts
 * names where that is possible, else anywhere.
 */
export function runsOf(words: string, face: Face, size: number, width: number): Run[] {
  const runs: Run[] = [];
  const put = ({ text, font }: Run): void => {
    const last = runs.at(-1);
    if (last && (last.font === font || text === '\n')) last.text += text;
    else runs.push({ text, font });
  };
  for (const piece of words.split(/(\s+)/)) {
    if (piece === '') continue;
    if (/^\s/.test(piece)) {
      put({ text: piece.includes('\n') ? piece.replace(/[^\n]+/g, '') : ' ', font: face });
      continue;
    }
    const all = [...piece].flatMap((l) => drawn(l, face));
    for (const [i, line] of brokenAt(all, width / size).entries()) {
      if (i > 0) put({ text: '\n', font: face });
      for (const letter of line) put(letter);
    }
  }
  return runs;
}

/** A word's letters in lines that are no wider than `most`. */
function brokenAt(all: readonly Letter[], most: number): Letter[][] {
  const lines: Letter[][] = [[]];
  let wide = 0;
  for (const letter of all) {
    const line = lines.at(-1)!;
    if (wide + letter.width > most && line.length > 0) {
      const cut = line.findLastIndex((l) => /[_\-./\\:]/.test(l.text)) + 1;
      const rest = cut > 0 ? line.splice(cut) : [];
      lines.push(rest);
      wide = rest.reduce((n, l) => n + l.width, 0);
    }
    lines.at(-1)!.push(letter);
    wide += letter.width;
  }
  return lines;
}
