import * as z from 'zod';
import { join } from '../platform/names';

/** A file's place: a root by its id, and the path below it with "/" between the parts. */
export const Place = z.object({ root: z.string(), path: z.string() });
export type Place = z.infer<typeof Place>;

/**
 * How a place compares with others: volumes that ignore case or Unicode form hold only one of two names that differ in
 * nothing else.
 */
export const placeKey = (p: Place): string => `${p.root}\0${nameKey(p.path)}`;

/** The same of a name. Most are of plain letters, which have one form. */
export const nameKey = (name: string): string =>
  (/^[\u0000-\u007f]*$/u.test(name) ? name : name.normalize('NFC')).toLowerCase();

const BASE = 0x01000193;

/**
 * A number of a text of plain letters, upper or lower case alike: a polynomial of its characters modulo 2^32, so that the number of two
 * texts together follows from theirs (Rabin and Karp, "Efficient randomized pattern-matching algorithms", 1987; from memory).
 */
export interface TextNumber {
  sum: number;
  /** The base to the power of the length. */
  power: number;
}

/** Null for a text with other characters: how those compare may depend on what is beside them. */
export function textNumber(text: string): TextNumber | null {
  let [sum, power] = [0, 1];
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    if (c > 127) return null;
    sum = (Math.imul(sum, BASE) + (c >= 65 && c <= 90 ? c + 32 : c)) | 0;
    power = Math.imul(power, BASE);
  }
  return { sum, power };
}

/** Of two texts together. */
export const after = (sum: number, next: TextNumber): number => (Math.imul(sum, next.power) + next.sum) | 0;

/** The number as places and names are compared by it: spread evenly, and small enough that engines keep it as it is. */
export function spread(sum: number): number {
  const n = Math.imul(sum ^ (sum >>> 16), 0x85ebca6b);
  return (n ^ (n >>> 13)) & 0x3fffffff;
}

/**
 * A number of a name's key: names of one key have one number, and different names rarely do. Of very many names only those whose
 * number is there twice need be compared.
 */
export const nameNumber = (name: string): number => spread(sumOf(name));

function sumOf(name: string): number {
  const plain = textNumber(name);
  if (plain) return plain.sum;
  let sum = 0;
  const key = nameKey(name);
  for (let i = 0; i < key.length; i++) sum = (Math.imul(sum, BASE) + key.charCodeAt(i)) | 0;
  return sum;
}

/** The same of a place's key. */
export const placeNumber = ({ root, path }: Place): number => spread(sumOf(`${root}/${path}`));

/** Numbers of many things, worked out once. */
export function numbersOf<T>(all: readonly T[], numberOf: (one: T) => number): Int32Array {
  const numbers = new Int32Array(all.length);
  for (let i = 0; i < all.length; i++) numbers[i] = numberOf(all[i]!);
  return numbers;
}

/**
 * What is at places, no two at one. A table of positions by the numbers of their places, the next free one where that is taken: of very
 * many it costs a fraction of a map by text.
 */
export class PlaceIndex<T> {
  readonly #numbers: Int32Array;
  /** Positions, counted from 1. */
  readonly #slots: Int32Array;

  constructor(
    private readonly all: readonly T[],
    private readonly placeOf: (one: T) => Place,
    numberOf = (one: T): number => placeNumber(placeOf(one)),
  ) {
    this.#numbers = numbersOf(all, numberOf);
    this.#slots = new Int32Array(2 ** Math.ceil(Math.log2(all.length * 2 + 2)));
    this.#numbers.forEach((number, i) => {
      let at = this.#slot(number);
      while (this.#slots[at] !== 0) at = this.#slot(at + 1);
      this.#slots[at] = i + 1;
    });
  }

  /** What is at a place, which is only worked out where something is of its number. */
  get(number: number, place: () => Place): T | undefined {
    let key: string | null = null;
    for (
      let at = this.#slot(number), i = this.#slots[at]!;
      i !== 0;
      at = this.#slot(at + 1), i = this.#slots[at]!
    ) {
      if (this.#numbers[i - 1] !== number) continue;
      const one = this.all[i - 1]!;
      key ??= placeKey(place());
      if (placeKey(this.placeOf(one)) === key) return one;
    }
    return undefined;
  }

  #slot = (number: number): number => number & (this.#slots.length - 1);
}

/** Names on the disk, by the folders they are in. */
export class Standing {
  readonly #folders = new Map<string, Set<string>>();
  #index: PlaceIndex<Place> | null = null;
  readonly #places: Place[] = [];

  /** Those of some folders whose names are not known. */
  unknown = <T extends { root: string; folder: string }>(folders: readonly T[]): T[] =>
    folders.filter(({ root, folder }) => !this.#folders.get(root)?.has(folder));

  add({ root, folder }: { root: string; folder: string }, names: readonly string[]): void {
    const known = this.#folders.get(root);
    if (known) known.add(folder);
    else this.#folders.set(root, new Set([folder]));
    for (const name of names) this.#places.push({ root, path: join(folder, name) });
    this.#index = null;
  }

  /** Whether something is at a place, by its number first (`PlaceIndex`). */
  has = (number: number, place: () => Place): boolean => {
    this.#index ??= new PlaceIndex(this.#places, (p) => p);
    return this.#index.get(number, place) !== undefined;
  };
}

/** Which have one key, in groups of two or more of their positions. Numbers are of the keys. */
export function sameOnes(numbers: Int32Array, keyOf: (at: number) => string): number[][] {
  const sorted = numbers.slice().sort();
  const twice = new Set(sorted.filter((n, i) => n === sorted[i - 1]));
  if (twice.size === 0) return [];
  const groups = new Map<string, number[]>();
  numbers.forEach((n, at) => {
    if (!twice.has(n)) return;
    const key = keyOf(at);
    const group = groups.get(key);
    if (group) group.push(at);
    else groups.set(key, [at]);
  });
  return [...groups.values()].filter((g) => g.length > 1);
}
