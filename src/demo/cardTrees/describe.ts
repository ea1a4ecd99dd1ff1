import { type FoundEntry, type Recognised, recognise, ROLE_WORDS } from '../../core/intake';
import { type CardTree, CARD_TREES, evidenceOf } from './trees';

const MEGABYTE = 1_000_000;
const lines = (text: string): string[] =>
  text
    .split('\n')
    .map((l) => l.trim())
    .filter((l) => l !== '');

/** The files of a tree; a second passes from one to the next. */
export const entriesOf = (tree: CardTree): FoundEntry[] =>
  lines(tree.files).map((line, i) => {
    const cut = line.indexOf(' ');
    const size = line.slice(0, cut);
    return {
      path: line.slice(cut + 1),
      kind: 'file',
      size: Math.round(Number.parseFloat(size) * MEGABYTE),
      modified: i * 1000,
      ...(size.endsWith('?') ? { holds: 'video' as const } : {}),
    };
  });

export const expectedOf = (tree: CardTree): string[] => lines(tree.expected);

/** Cards, their clips, what is aside and what is doubtful, a line each. Further stills are counted. */
export function describeCards({ cards, aside }: Recognised): string[] {
  return [
    ...cards.flatMap((c) => [
      `card ${c.folder || '.'} ${c.shape.id}${c.shape.with.map((id) => ` + ${id}`).join('')}`,
      ...c.families.map((f) => {
        const stills = f.files.filter((m) => m.role === 'still').length;
        const [first, ...rest] = f.files.filter((m) => m.role !== 'still').map((m) => `${m.role} ${m.path}`);
        const members = [first, ...(stills > 0 ? [`${stills} × still`] : []), ...rest].join(', ');
        return `${f.stem} ${f.kind}: ${members}${f.missing.length > 0 ? `; missing ${f.missing.join(', ')}` : ''}`;
      }),
      ...c.aside.map((a) => `aside ${a.path}`),
      ...c.doubts.map((d) => `doubt ${d}`),
    ]),
    ...aside.map((a) => `aside ${a.path}`),
  ];
}

/** How each tree is read, as a table of `docs/cards.md`. */
export function tableOfTrees(): string {
  const rows = CARD_TREES.map((tree) => {
    const entries = entriesOf(tree);
    const read = recognise(entries, { evidence: evidenceOf(tree) });
    const families = read.cards.flatMap((c) => c.families);
    const beside = new Map<string, number>();
    for (const m of families.flatMap((f) => f.files))
      if (m.role !== 'original') beside.set(ROLE_WORDS[m.role], (beside.get(ROLE_WORDS[m.role]) ?? 0) + 1);
    return [
      tree.what,
      read.cards
        .map((c) => (read.cards.length > 1 ? `${c.folder}: ${c.shape.name}` : c.shape.name))
        .join('; '),
      String(entries.length),
      String(families.length),
      [...beside].map(([word, n]) => `${n} × ${word}`).join(', '),
      [...read.cards.flatMap((c) => c.aside), ...read.aside].map((a) => `${a.path}: ${a.reason}`).join('; '),
    ];
  });
  const head = ['What it is', 'Recognised as', 'Files', 'Clips', 'With them', 'Left aside'];
  return [head, head.map(() => '---'), ...rows].map((r) => `| ${r.join(' | ')} |`).join('\n');
}
