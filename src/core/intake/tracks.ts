import type { NumberedFile, TakeEvidence } from './segments';

/** A sound recording with a file for each track, in order of the tracks. `suffix` is what each has behind the take's name: "_Tr2". */
export interface Tracks<T> {
  stem: string;
  files: { file: T; suffix: string }[];
}

/** What recorders put behind a take's name for a track: a number, L, R, or a mix. Named tracks say so, bare numbers may be takes too. */
const TRACK = /^(?<take>.+?)(?<suffix>[_-](?:(?<word>tr(?:ac)?k?|ch)[_-]?)?(?<track>\d{1,2}|l|r|lr|mix))$/i;
/** How far two tracks of one take may differ in size: their headers do, their sound does not. Bytes. */
const HEADERS = 64 << 10;

/**
 * Finds recordings of which each track is a file: one name but for the track, as long as one another. A mix may have two
 * channels where the tracks have one. Tracks by bare numbers must begin together (`evidence`): takes and segments do not.
 */
export function tracks<T extends NumberedFile>(
  files: readonly T[],
  evidence: (path: string) => TakeEvidence | undefined,
): { found: Tracks<T>[]; ask: [T, T][] } {
  const takes = new Map<string, { file: T; take: string; suffix: string; named: boolean; mix: boolean }[]>();
  for (const file of files) {
    const m = TRACK.exec(file.stem)?.groups;
    if (!m) continue;
    const key = `${file.path.slice(0, file.path.lastIndexOf('/') + 1)}\0${m.take!.toLowerCase()}`;
    const named = m.word !== undefined || !/^\d/.test(m.track!);
    takes.set(key, [
      ...(takes.get(key) ?? []),
      { file, take: m.take!, suffix: m.suffix!, named, mix: /^(?:lr|mix)$/i.test(m.track!) },
    ]);
  }
  const found: Tracks<T>[] = [];
  const ask: [T, T][] = [];
  for (const take of takes.values()) {
    // The mix is not what the recording is told by.
    take.sort(
      (a, b) => Number(a.mix) - Number(b.mix) || a.suffix.localeCompare(b.suffix, 'en', { numeric: true }),
    );
    const [first, ...more] = take as [(typeof take)[number], ...typeof take];
    const alike = (size: number) => Math.abs(size - first.file.size) <= HEADERS;
    if (more.length === 0 || !more.every((t) => alike(t.file.size) || (t.mix && alike(t.file.size / 2))))
      continue;
    if (!take.every((t) => t.named)) {
      for (const t of more) ask.push([first.file, t.file]);
      const at = evidence(first.file.path);
      if (!more.every((t) => beganTogether(at, evidence(t.file.path)))) continue;
    }
    found.push({ stem: first.take, files: take.map((t) => ({ file: t.file, suffix: t.suffix })) });
  }
  return { found, ask };
}

function beganTogether(a: TakeEvidence | undefined, b: TakeEvidence | undefined): boolean {
  if (!a || !b) return false;
  if (a.start !== null && b.start !== null) return a.start === b.start;
  return a.began !== null && a.began === b.began;
}
