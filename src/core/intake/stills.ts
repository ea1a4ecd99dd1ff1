import { cameraNumber } from './counter';
import { extensionOf } from './shape';

export interface Still {
  path: string;
  stem: string;
  modified: number;
}

/** A row of numbered stills that was taken as one. */
export interface StillRow<T> {
  stills: T[];
  /** Digits of each still's number, as they are in its name. */
  digits: string[];
  /** Names, without extension, of the numbers that are missing inside the row. */
  missing: string[];
  /** The clip's name where the row is in a folder that bears it; `null` elsewhere. */
  clip: string | null;
}

/** A row has at least so many stills; fewer are taken by hand. In a folder of its own name it is a short take. */
const MIN_STILLS = 8;
const MIN_IN_OWN_FOLDER = 2;
/** A step of more numbers than this begins another row. */
const MAX_GAP = 10;

/**
 * Finds stills that belong together as one time-lapse: their numbers count up in one folder, and they were taken at even
 * intervals (each within a third, or a second and a half, of the usual one, for at least 85 of 100). Pictures taken by hand
 * count up too, but not evenly. Where all file times are alike, as after a careless copy, counting up is enough.
 */
export function stillRows<T extends Still>(stills: readonly T[]): StillRow<T>[] {
  const groups = new Map<string, { still: T; value: number; digits: string; before: string }[]>();
  for (const still of stills) {
    const n = cameraNumber(still.stem);
    if (!n || n.after !== '') continue;
    const key = `${still.path.slice(0, still.path.lastIndexOf('/') + 1)}\0${n.before}\0${n.digits.length}\0${extensionOf(still.path)}`;
    const group = groups.get(key) ?? [];
    group.push({ still, value: n.value, digits: n.digits, before: n.before });
    groups.set(key, group);
  }
  const rows: StillRow<T>[] = [];
  for (const group of groups.values()) {
    group.sort((a, b) => a.value - b.value);
    let run: typeof group = [];
    const clip = ownFolder(group[0]!);
    const close = () => {
      if (
        run.length >= (clip === null ? MIN_STILLS : MIN_IN_OWN_FOLDER) &&
        isEven(run.map((r) => ({ value: r.value, modified: r.still.modified })))
      ) {
        const missing: string[] = [];
        for (let i = 1; i < run.length; i++) {
          for (let v = run[i - 1]!.value + 1; v < run[i]!.value; v++)
            missing.push(run[i]!.before + String(v).padStart(run[i]!.digits.length, '0'));
        }
        rows.push({ stills: run.map((r) => r.still), digits: run.map((r) => r.digits), missing, clip });
      }
      run = [];
    };
    for (const item of group) {
      if (run.length > 0 && item.value - run.at(-1)!.value > MAX_GAP) close();
      run.push(item);
    }
    close();
  }
  return rows;
}

/** The name of a row's folder, without extension, where the row has that name before its numbers. */
function ownFolder({ still, before }: { still: Still; before: string }): string | null {
  const folder = still.path
    .split('/')
    .at(-2)
    ?.replace(/\.[^.]*$/, '');
  return folder !== undefined && folder !== '' && before.replace(/[_-]$/, '') === folder ? folder : null;
}

function isEven(run: readonly { value: number; modified: number }[]): boolean {
  const intervals = run
    .slice(1)
    .map((r, i) => (r.modified - run[i]!.modified) / (r.value - run[i]!.value) / 1000);
  const usual = [...intervals].sort((a, b) => a - b)[Math.floor(intervals.length / 2)]!;
  const slack = Math.max(1.5, usual / 3);
  return intervals.filter((i) => Math.abs(i - usual) <= slack).length >= intervals.length * 0.85;
}
