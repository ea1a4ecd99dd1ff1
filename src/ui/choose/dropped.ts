import type { ChangeAsked } from '../platform/client';

/** What is dragged: a clip, a bin or a keyword; and what it is dropped on. */
export type Dragged = { clip?: string; bin?: string; keyword?: { id: string; name: string }; name?: string };
export type Over = {
  into?: string | null;
  keyword?: { id: string; name: string };
  on?: string;
  list?: string;
};

/** What a drop does; null where it does nothing. `here` is the bin that is shown. */
export function dropped(
  dragged: Dragged,
  over: Over,
  { chosen, here, copy }: { chosen: ReadonlySet<string>; here: string | null; copy: boolean },
): ChangeAsked | null {
  const withAll = (clip: string): string[] => (chosen.has(clip) ? [...chosen] : [clip]);
  if (dragged.clip !== undefined) {
    const clips = withAll(dragged.clip);
    if (over.keyword !== undefined) return { do: 'addKeyword', clips, name: over.keyword.name };
    if (over.list !== undefined)
      return { do: 'addToStringOut', list: over.list, items: clips.map((clip) => ({ clip })) };
    if (typeof over.into !== 'string' || over.into === here) return null;
    return { do: 'putInBin', bin: over.into, clips, from: copy || here === 'none' ? null : here };
  }
  if (dragged.bin !== undefined && over.into !== undefined && over.into !== dragged.bin)
    return { do: 'moveBins', bins: [dragged.bin], into: over.into };
  if (dragged.keyword === undefined) return null;
  if (over.on !== undefined) return { do: 'addKeyword', clips: withAll(over.on), name: dragged.keyword.name };
  return over.keyword !== undefined && over.keyword.id !== dragged.keyword.id
    ? { do: 'moveKeyword', keyword: dragged.keyword.id, before: over.keyword.id }
    : null;
}
