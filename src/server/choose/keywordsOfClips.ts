import { asListed, marksOf, type MarksPorts } from './marks';

/** The keywords that clips have as a whole, whoever gave them, as they are listed: group by group. */
export async function keywordsOfClips(
  runtime: MarksPorts,
): Promise<ReadonlyMap<string, { name: string; group: string }[]>> {
  const { keywords, keyworded } = await marksOf(runtime);
  const listed = [...keywords].sort((a, b) =>
    a.family === b.family ? asListed(a, b) : a.family < b.family ? -1 : 1,
  );
  const placeOf = new Map(listed.map((k, i) => [k.id, i]));
  return new Map(
    [...keyworded].map(([clip, given]) => {
      const places = new Set(given.filter((g) => g.range === '').map((g) => placeOf.get(g.keyword)!));
      return [
        clip,
        [...places].sort((a, b) => a - b).map((p) => ({ name: listed[p]!.name, group: listed[p]!.family })),
      ];
    }),
  );
}
