import { keep, kept } from './kept';

/** Clips that one screen hands on to another: too many for an address, and of this tab only. */
const NAME = 'clips handed on';

export const handOn = (clips: readonly string[]): void => keep(NAME, JSON.stringify(clips), 'tab');

/** The clips that were handed over last; none where there are none, or what is kept is not them. */
export function handedOn(): string[] {
  try {
    const clips: unknown = JSON.parse(kept(NAME, 'tab') ?? '[]');
    return Array.isArray(clips) ? clips.filter((c): c is string => typeof c === 'string') : [];
  } catch {
    return [];
  }
}
