import { type Block, moduleOf } from './blocks';
import type { Counter } from './blocks/counter';
import { type BlockModule, finish, type RenderContext } from './blocks/block';
import { changer, faultOf } from './changes';
import { checkName, type Problem, type System } from './check';
import type { NamingClip } from './clip';
import {
  count,
  type CountContext,
  type Counted,
  type Gap,
  type GivenNumber,
  type NumberInName,
} from './counters';
import { readBack } from './readBack';
import type { Convention, FolderPlan } from './convention';

export interface NamePart {
  blockId: string;
  /** What separates it from the part before it. */
  before: string;
  text: string;
}

export interface RenderedName {
  clipId: string;
  stem: string;
  /** Folder below the root, "/" between levels, "" for the root itself. */
  folder: string;
  /** The parts of the stem, empty where changes made it another one. */
  parts: NamePart[];
  problems: readonly Problem[];
}

export interface Rendered {
  /** Of the clips, in their order. */
  names: RenderedName[];
  /** Numbers of each counter. */
  numbers: GivenNumber[][];
  gaps: Gap[];
}

export interface RenderOptions extends Omit<CountContext, 'folderOf'> {
  systems: readonly System[];
}

/** Fields of facts that a convention and a folder plan need. */
export const fieldsOf = (convention: Convention, folders: FolderPlan): string[] =>
  [...convention.blocks, ...folders.levels.flat()].flatMap((b) => [
    ...(moduleOf(b.kind).fields?.(b.own as never) ?? []),
  ]);

/** Of very many clips most have nothing wrong: they share this. */
const NONE: readonly Problem[] = [];

/** What one block writes of every clip. */
interface Column {
  block: Block;
  /** By the clips' positions: as it stands in the name, "" where nothing is left of it, null where a value is missing. */
  texts: readonly (string | null)[];
  /** What is wrong where a value is missing. */
  lack: Problem;
}

function columnOf(
  block: Block,
  clips: readonly NamingClip[],
  counter: (at: number) => string | null,
): Column {
  const kind = moduleOf(block.kind);
  const context: RenderContext = { at: 0, counter };
  /** What is finished once need not be again. */
  const finished = new Map<string, string>();
  const texts = clips.map((clip, at) => {
    context.at = at;
    let text = kind.text(block.own, clip, context);
    if (text === null || text.trim() === '') {
      if (block.missing !== 'word') return null;
      text = block.word;
    }
    let done = finished.get(text);
    if (done === undefined) {
      done = finish(text, block, kind.verbatim);
      finished.set(text, done);
    }
    return done;
  });
  return { block, texts, lack: lack(block, kind) };
}

/** The name blocks make of the clip at a position; its parts and what is missing are added to the lists that are given. */
function compose(
  columns: readonly Column[],
  at: number,
  { parts, missing }: { parts?: NamePart[]; missing?: Problem[] },
): string {
  let name = '';
  for (const { block, texts, lack: wrong } of columns) {
    const text = texts[at]!;
    if (text === null) missing?.push(wrong);
    if (text === null || text === '') continue;
    const before = name === '' ? '' : block.before;
    parts?.push({ blockId: block.id, before, text });
    name += before + text;
  }
  return name;
}

/** Keeps what one plan worked out for the next, which mostly differs in one block; what the last one did not use goes. */
export class Memo {
  #before = new Map<string, unknown>();
  #now = new Map<string, unknown>();

  next(): void {
    this.#before = this.#now;
    this.#now = new Map();
  }

  /** `key` says all that the value is made of, but for the clips. */
  of<T>(key: string, make: () => T): T {
    const value = (this.#now.get(key) ?? this.#before.get(key) ?? make()) as T;
    this.#now.set(key, value);
    return value;
  }
}

/** A folder of a plan. Folders are few and clips many: each is made and checked once. */
class Folder {
  readonly #below = new Map<string, Folder>();

  constructor(
    /** "/" between levels, "" for the root. */
    readonly path: string,
    readonly problems: readonly Problem[],
  ) {}

  below(name: string, systems: readonly System[]): Folder {
    const known = this.#below.get(name);
    if (known) return known;
    const wrong = checkName(name, systems);
    const made = new Folder(
      this.path === '' ? name : `${this.path}/${name}`,
      wrong.length === 0 ? this.problems : [...this.problems, ...wrong],
    );
    this.#below.set(name, made);
    return made;
  }
}

const lack = (block: Block, kind: BlockModule): Problem =>
  block.missing === 'stop'
    ? {
        level: 'stop',
        code: 'blockEmpty',
        text: kind.lacking(block.own),
        mend: 'give the clips a value, leave them out, or have the block left out',
      }
    : { level: 'look', code: 'blockEmpty', text: kind.lacking(block.own) };

function numberInName(convention: Convention, clip: NamingClip, block: string): ReturnType<NumberInName> {
  const reading = readBack(convention, clip.current, { code: clip.job });
  if (!reading?.fits || reading.apart.ambiguous) return null;
  const [, digits, letter] = /^(\d{1,6})([a-z]*)$/u.exec(reading.apart.texts.get(block) ?? '') ?? [];
  return digits === undefined ? null : { number: Number(digits), letter: letter! };
}

/** Folders of clips, in their order, with what is wrong with them. */
function placesOf(
  levels: readonly (readonly Block[])[],
  clips: readonly NamingClip[],
  systems: readonly System[],
): Pick<Folder, 'path' | 'problems'>[] {
  const columns = levels.map((level) => level.map((block) => columnOf(block, clips, () => null)));
  const top = new Folder('', NONE);
  const missing: Problem[] = [];
  return clips.map((_, at) => {
    let folder = top;
    let lacks: readonly Problem[] = NONE;
    for (const level of columns) {
      const name = compose(level, at, { missing });
      if (missing.length > 0)
        lacks = [...lacks, ...missing.splice(0).filter((p) => p.level === 'stop' || name === '')];
      // A level without a value is left out.
      if (name !== '') folder = folder.below(name, systems);
    }
    return lacks === NONE ? folder : { path: folder.path, problems: [...lacks, ...folder.problems] };
  });
}

/**
 * Renders the name and place of every clip. Give all clips of the job that take this convention: numbers of counters depend
 * on those shot before. A memo is of one list of clips and one set of what else is in the options.
 */
export function renderNames(
  convention: Convention,
  folders: FolderPlan,
  clips: readonly NamingClip[],
  options: RenderOptions,
  memo = new Memo(),
): Rendered {
  memo.next();
  const levels = JSON.stringify(folders.levels);
  const placed = memo.of(`folders ${options.systems.join()} ${levels}`, () =>
    placesOf(folders.levels, clips, options.systems),
  );
  const renamed = memo.of('renamed', () => clips.some((c) => c.current !== c.original));
  const counted: Counted[] = [];
  /** How many counters there are so far that start again for the same. */
  const alike = new Map<string, number>();
  const columns = convention.blocks.map((block): Column => {
    if (block.kind !== 'counter')
      return memo.of(`block ${JSON.stringify(block)}`, () => columnOf(block, clips, () => null));
    const own = block.own as Counter;
    const scope = [...own.per].sort().join();
    const nth = (alike.get(scope) ?? 0) + 1;
    alike.set(scope, nth);
    const per = own.per.includes('folder') ? levels : '';
    // Numbers may be read from present names, as this convention has them.
    const names = renamed ? JSON.stringify(convention.blocks) : '';
    const { numbers, column } = memo.of(`counter ${nth} ${JSON.stringify(block)} ${per} ${names}`, () => {
      const folderOf = new Map(per === '' ? [] : clips.map((clip, at) => [clip, placed[at]!.path]));
      const made = count(
        own,
        clips,
        { ...options, folderOf: (c) => folderOf.get(c)! },
        (clip) => numberInName(convention, clip, block.id),
        nth,
      );
      return { numbers: made, column: columnOf(block, clips, (at) => made.texts[at]!) };
    });
    counted.push(numbers);
    return column;
  });
  const change = changer(convention.changes);
  const faults = convention.changes.flatMap((c): Problem[] => {
    const fault = faultOf(c);
    return fault === null ? [] : [{ level: 'stop', code: 'expression', text: fault }];
  });
  const missing: Problem[] = [];
  const names = clips.map((clip, at): RenderedName => {
    const plain = compose(columns, at, { missing });
    const stem = convention.changes.length === 0 ? plain : change(plain);
    const place = placed[at]!;
    const found = checkName(stem, options.systems);
    const wrong = missing.length + faults.length + found.length + place.problems.length;
    return new Rendering(
      clip.id,
      at,
      stem,
      place.path,
      wrong === 0 ? NONE : [...missing.splice(0), ...faults, ...found, ...place.problems],
      stem === plain ? columns : [],
    );
  });
  return { names, numbers: counted.map((c) => c.numbers), gaps: counted.flatMap((c) => c.gaps) };
}

/** A rendered name that makes its parts when they are asked for, which is for those in sight. */
class Rendering implements RenderedName {
  constructor(
    readonly clipId: string,
    private readonly at: number,
    readonly stem: string,
    readonly folder: string,
    readonly problems: readonly Problem[],
    private readonly columns: readonly Column[],
  ) {}

  get parts(): NamePart[] {
    const parts: NamePart[] = [];
    compose(this.columns, this.at, { parts });
    return parts;
  }
}
