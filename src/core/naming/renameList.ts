import { csv } from '../platform/csv';
import type { StepKind } from './plan';
import type { StepState } from './shapes';

/** A file's way through a plan, from where it was to where the plan left it. */
export interface Renamed {
  clip: string;
  kind: StepKind;
  from: string;
  to: string;
  size: number;
  state: StepState;
  fault: string | null;
}

const DID: Record<StepKind, string> = {
  move: 'moved',
  carry: 'moved to another volume',
  copy: 'copied',
  uncopy: 'copy removed',
  link: 'hard-linked',
  unlink: 'hard link removed',
};
const STATES: Record<StepState, string> = {
  waiting: 'not begun',
  doing: 'under way',
  done: 'done',
  reverted: 'taken back',
  failed: 'left where it was',
};

/** Columns: clip, what was done, old and new path, bytes, state, reason. */
export const renameCsv = (files: readonly Renamed[]): string =>
  csv(
    ['Clip', 'Done', 'From', 'To', 'Bytes', 'State', 'Reason'],
    files.map((f) => [f.clip, DID[f.kind], f.from, f.to, f.size, STATES[f.state], f.fault ?? '']),
  );

/** The same to be read: clip by clip, with the sums above. `about` says of which job and when. */
export function renameReport(files: readonly Renamed[], about: readonly string[]): string {
  const clips = new Map<string, Renamed[]>();
  for (const f of files) clips.set(f.clip, [...(clips.get(f.clip) ?? []), f]);
  const done = files.filter((f) => f.state === 'done').length;
  const lines = [
    ...about,
    `${files.length} files of ${clips.size} clips; ${done} done, ${files.length - done} not.`,
    '',
  ];
  for (const [clip, list] of clips) {
    lines.push(clip);
    for (const f of list) {
      lines.push(`  ${f.from}`, `    -> ${f.to}`);
      if (f.kind !== 'move' || f.state !== 'done')
        lines.push(`    ${DID[f.kind]}, ${STATES[f.state]}${f.fault ? `: ${f.fault}` : ''}`);
    }
  }
  return `${lines.join('\n')}\n`;
}
