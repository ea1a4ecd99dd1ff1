import { type Block, moduleOf } from './blocks';
import type { Counter } from './blocks/counter';
import { finish, type RenderContext } from './blocks/block';
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
  problems: Problem[];
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

/** Renders a row of blocks: its parts, and what is missing. */
function renderRow(
  blocks: readonly Block[],
  clip: NamingClip,
  context: RenderContext,
): { parts: NamePart[]; problems: Problem[] } {
  const parts: NamePart[] = [];
  const problems: Problem[] = [];
  for (const block of blocks) {
    const module = moduleOf(block.kind);
    let text = module.text(block.own, clip, context, block.id);
    if (text === null || text.trim() === '') {
      const lacking = module.lacking(block.own);
      if (block.missing === 'stop')
        problems.push({
          level: 'stop',
          code: 'blockEmpty',
          text: lacking,
          mend: 'give the clips a value, leave them out, or have the block left out',
        });
      else if (block.missing === 'leaveOut')
        problems.push({ level: 'look', code: 'blockEmpty', text: lacking });
      if (block.missing !== 'word') continue;
      text = block.word;
    }
    const done = finish(text, block, module.verbatim);
    if (done !== '')
      parts.push({ blockId: block.id, before: parts.length === 0 ? '' : block.before, text: done });
  }
  return { parts, problems };
}

const joined = (parts: readonly NamePart[]): string => parts.map((p) => p.before + p.text).join('');

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
  const inFolders: RenderContext = { counter: () => null };
  const places = new Map<string, { folder: string; problems: Problem[] }>();
  /** Folders are few and clips many: each is checked once. */
  const checked = new Map<string, Problem[]>();
  const check = (name: string): Problem[] => {
    const known = checked.get(name);
    if (known) return known;
    const found = checkName(name, options.systems);
    checked.set(name, found);
    return found;
  };
  for (const clip of clips) {
    const names: string[] = [];
    const problems: Problem[] = [];
    for (const level of folders.levels) {
      const row = renderRow(level, clip, inFolders);
      const name = joined(row.parts);
      problems.push(...row.problems.filter((p) => p.level === 'stop' || name === ''));
      // A level without a value is left out.
      if (name === '') continue;
      names.push(name);
      problems.push(...check(name));
    }
    places.set(clip.id, { folder: names.join('/'), problems });
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
  const context: RenderContext = {
    counter: (blockId, clipId) => counted.get(blockId)?.texts.get(clipId) ?? null,
  };
  const change = changer(convention.changes);
  const faults = convention.changes.flatMap((c): Problem[] => {
    const fault = faultOf(c);
    return fault === null ? [] : [{ level: 'stop', code: 'expression', text: fault }];
  });
  const names = clips.map((clip): RenderedName => {
    const { parts, problems } = renderRow(convention.blocks, clip, context);
    const plain = joined(parts);
    const stem = convention.changes.length === 0 ? plain : change(plain);
    const place = places.get(clip.id)!;
    return {
      clipId: clip.id,
      stem,
      folder: place.folder,
      parts: stem === plain ? parts : [],
      problems: [...problems, ...faults, ...checkName(stem, options.systems), ...place.problems],
    };
  });
  return {
    names,
    numbers: new Map([...counted].map(([id, c]) => [id, c.numbers])),
    gaps: [...counted.values()].flatMap((c) => c.gaps),
  };
}
