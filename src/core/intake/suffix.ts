/**
 * Works out how a set of file names (without extension) follows from the clips they belong to: the words a camera puts
 * behind a clip's name, such as `_px`.
 *
 * One name can start with several clips' names (T0001_px with T0001, and with T000). The suffix most files agree
 * on decides, then the longest clip name. A file whose video extension was doubled (`T0004_px.MP4.mp4`) is
 * read as if it had one.
 *
 * A suffix begins with what separates it from the clip's name: a character that is no letter or digit, or a letter behind a
 * digit ("T0001S03"). Any other counts only where every name has it, and at least two do: A does not own "audio_report".
 */
export interface SuffixMatch {
  /** The file's name as given → the clip's stem and what is behind it. */
  matches: Map<string, { stem: string; suffix: string }>;
  /** What most files carry behind the stem, "" where they carry nothing; `null` where nothing matched. */
  rule: string | null;
}

const DOUBLED = /\.(?:mp4|mov|mxf|m4v)$/i;

const isApart = ({ stem, suffix }: { stem: string; suffix: string }): boolean =>
  /^(?:$|[^\p{L}\p{N}])/u.test(suffix) || (/\p{N}$/u.test(stem) && /^\p{L}/u.test(suffix));

export function matchBySuffix(stems: readonly string[], names: readonly string[]): SuffixMatch {
  const byLower = new Map(stems.map((s) => [s.toLowerCase(), s]));
  const candidates = new Map<string, { stem: string; suffix: string }[]>();
  const votes = new Map<string, number>();
  for (const name of names) {
    const bare = name.replace(DOUBLED, '');
    const found: { stem: string; suffix: string }[] = [];
    for (let n = bare.length; n > 0; n--) {
      const stem = byLower.get(bare.slice(0, n).toLowerCase());
      if (stem !== undefined) found.push({ stem, suffix: bare.slice(n) });
    }
    candidates.set(name, found);
    for (const { suffix } of found) votes.set(suffix, (votes.get(suffix) ?? 0) + 1);
  }
  const rule = [...votes].sort((a, b) => b[1] - a[1] || a[0].length - b[0].length)[0]?.[0] ?? null;
  const matches = new Map<string, { stem: string; suffix: string }>();
  const agreed = rule !== null && names.length > 1 && votes.get(rule) === names.length;
  for (const [name, found] of candidates) {
    const best =
      found.find((c) => c.suffix === rule && (isApart(c) || agreed)) ?? found.find((c) => isApart(c));
    if (best) matches.set(name, best);
  }
  return { matches, rule: matches.size > 0 ? rule : null };
}
