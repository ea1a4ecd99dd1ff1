import type { MhlEntry } from '../../core/hashLists';

const PAGE = 2000;

/** The files of a list that is to be written, as JSON in pieces: very many objects passed to a thread would hold up the one that passes them. */
export class ListedEntries {
  readonly #pages: string[] = [];
  #open: MhlEntry[] = [];

  add(entry: MhlEntry): void {
    this.#open.push(entry);
    if (this.#open.length >= PAGE) this.#close();
  }

  pages(): string[] {
    this.#close();
    return this.#pages;
  }

  #close(): void {
    if (this.#open.length > 0) this.#pages.push(JSON.stringify(this.#open));
    this.#open = [];
  }
}

export const entriesOf = (pages: readonly string[]): MhlEntry[] =>
  pages.flatMap((p) => JSON.parse(p) as MhlEntry[]);
