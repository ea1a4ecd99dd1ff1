import type { Locks } from '../db/client';

/**
 * What pieces of work have to themselves while they run: a reader, a root. Held by name, among all servers that share the database;
 * with the server that holds it a name is free again.
 */
export class Resources {
  readonly #held = new Set<string>();

  constructor(private readonly locks: Locks) {}

  /** Takes all of these or none: then who has one of them, a piece that runs `here`, or one `elsewhere`. */
  async take(names: readonly string[]): Promise<'taken' | 'here' | 'elsewhere'> {
    const mine: string[] = [];
    for (const name of names) {
      // A lock of the database may be taken twice by who holds it.
      const free = !this.#held.has(name);
      if (free) this.#held.add(name);
      if (free && (await this.locks.take(`resource ${name}`).catch(() => false))) {
        mine.push(name);
        continue;
      }
      if (free) this.#held.delete(name);
      await this.leave(mine);
      return free ? 'elsewhere' : 'here';
    }
    return 'taken';
  }

  /** Whether nobody here has any of these. */
  areFree(names: readonly string[]): boolean {
    return !names.some((n) => this.#held.has(n));
  }

  async leave(names: readonly string[]): Promise<void> {
    for (const name of names) {
      await this.locks.leave(`resource ${name}`).catch(() => undefined);
      this.#held.delete(name);
    }
  }
}
