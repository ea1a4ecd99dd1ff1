/** Clips that one screen hands on to another: too many for an address, and of this tab only. */
const KEY = 'clips handed on';

export const handOn = (clips: readonly string[]): void => sessionStorage.setItem(KEY, JSON.stringify(clips));

/** The clips that were handed over last; none where there are none, or what is kept is not them. */
export function handedOn(): string[] {
  try {
    const kept: unknown = JSON.parse(sessionStorage.getItem(KEY) ?? '[]');
    return Array.isArray(kept) ? kept.filter((k): k is string => typeof k === 'string') : [];
  } catch {
    return [];
  }
}
