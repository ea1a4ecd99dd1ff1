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
  names: RenderedName[];
  /** Numbers of each counter, by its block. */
  numbers: Map<string, GivenNumber[]>;
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

/** A row of blocks that renders many clips: what a block finished once it need not finish again. */
class Row {
  readonly #blocks: readonly { block: Block; kind: BlockModule; finished: Map<string, string> }[];

  constructor(
    blocks: readonly Block[],
    private readonly context: RenderContext,
  ) {
    this.#blocks = blocks.map((block) => ({ block, kind: moduleOf(block.kind), finished: new Map() }));
  }

  /** The parts of a clip's name, or only the name itself where no list of them is given; what is missing is added to `problems`. */
  render(clip: NamingClip, parts: NamePart[] | null, problems: Problem[] | null): string {
    let name = '';
    for (const { block, kind, finished } of this.#blocks) {
      let text = kind.text(block.own, clip, this.context, block.id);
      if (text === null || text.trim() === '') {
        if (problems && block.missing !== 'word') problems.push(lack(block, kind));
        if (block.missing !== 'word') continue;
        text = block.word;
      }
      let done = finished.get(text);
      if (done === undefined) {
        done = finish(text, block, kind.verbatim);
        finished.set(text, done);
      }
      if (done === '') continue;
      const before = name === '' ? '' : block.before;
      parts?.push({ blockId: block.id, before, text: done });
      name += before + done;
    }
    return name;
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

/**
 * Renders the name and place of every clip. Give all clips of the job that take this convention: numbers of counters depend
 * on those shot before.
 */
export function renderNames(
  convention: Convention,
  folders: FolderPlan,
  clips: readonly NamingClip[],
  options: RenderOptions,
): Rendered {
  const levels = folders.levels.map((level) => new Row(level, { counter: () => null }));
  const places = new Map<string, { folder: string; problems: readonly Problem[] }>();
  /** Folders are few and clips many: each is checked once. */
  const checked = new Map<string, readonly Problem[]>();
  const check = (name: string): readonly Problem[] => {
    const known = checked.get(name);
    if (known) return known;
    const found = checkName(name, options.systems);
    checked.set(name, found);
    return found;
  };
  for (const clip of clips) {
    let folder = '';
    let problems: readonly Problem[] = NONE;
    for (const level of levels) {
      const missing: Problem[] = [];
      const name = level.render(clip, null, missing);
      if (missing.length > 0)
        problems = [...problems, ...missing.filter((p) => p.level === 'stop' || name === '')];
      // A level without a value is left out.
      if (name === '') continue;
      folder = folder === '' ? name : `${folder}/${name}`;
      const found = check(name);
      if (found.length > 0) problems = [...problems, ...found];
    }
    places.set(clip.id, { folder, problems });
  }
  const counted = new Map<string, Counted>();
  for (const block of convention.blocks)
    if (block.kind === 'counter')
      counted.set(
        block.id,
        count(block.own as Counter, clips, { ...options, folderOf: (id) => places.get(id)!.folder }, (clip) =>
          numberInName(convention, clip, block.id),
        ),
      );
  const row = new Row(convention.blocks, {
    counter: (blockId, clipId) => counted.get(blockId)?.texts.get(clipId) ?? null,
  });
  const change = changer(convention.changes);
  const faults = convention.changes.flatMap((c): Problem[] => {
    const fault = faultOf(c);
    return fault === null ? [] : [{ level: 'stop', code: 'expression', text: fault }];
  });
  const names = clips.map((clip): RenderedName => {
    const missing: Problem[] = [];
    const plain = row.render(clip, null, missing);
    const stem = convention.changes.length === 0 ? plain : change(plain);
    const place = places.get(clip.id)!;
    const found = checkName(stem, options.systems);
    const wrong = missing.length + faults.length + found.length + place.problems.length;
    return new Rendering(
      clip,
      stem,
      place.folder,
      wrong === 0 ? NONE : [...missing, ...faults, ...found, ...place.problems],
      stem === plain ? row : null,
    );
  });
  return {
    names,
    numbers: new Map([...counted].map(([id, c]) => [id, c.numbers])),
    gaps: [...counted.values()].flatMap((c) => c.gaps),
  };
}

/** A rendered name that makes its parts when they are asked for, which is for those in sight. */
class Rendering implements RenderedName {
  constructor(
    private readonly clip: NamingClip,
    readonly stem: string,
    readonly folder: string,
    readonly problems: readonly Problem[],
    private readonly row: Row | null,
  ) {}

  get clipId(): string {
    return this.clip.id;
  }

  get parts(): NamePart[] {
    const parts: NamePart[] = [];
    this.row?.render(this.clip, parts, null);
    return parts;
  }
}
