import { afterEach, expect, test } from '@jest/globals';
import { keep, kept } from './kept';

/** A storage of so many characters at most; null for one that may not be touched. */
function give(most: number | null): Map<string, string> {
  const held = new Map<string, string>();
  Object.defineProperty(globalThis, 'localStorage', {
    configurable: true,
    get: () => {
      if (most === null) throw new DOMException('Access is denied for this document.', 'SecurityError');
      return {
        getItem: (name: string) => held.get(name) ?? null,
        setItem: (name: string, text: string) => {
          if (text.length > most) throw new DOMException('It is full.', 'QuotaExceededError');
          held.set(name, text);
        },
      };
    },
  });
  return held;
}
afterEach(() => {
  Reflect.deleteProperty(globalThis, 'localStorage');
});

test('what is kept is in the storage of the browser', () => {
  const held = give(100);
  keep('width', '300');
  expect(held.get('width')).toBe('300');
  expect(kept('width')).toBe('300');
  expect(kept('place')).toBeNull();
});

test('where the storage may not be touched, or there is none, it is kept on the page', () => {
  give(null);
  keep('forbidden', '300');
  expect(kept('forbidden')).toBe('300');
  expect(kept('never')).toBeNull();
  Reflect.deleteProperty(globalThis, 'localStorage');
  keep('none', '1');
  expect(kept('none')).toBe('1');
});

test('what does not fit is known all the same, and not what was kept before it', () => {
  const held = give(3);
  keep('chosen', 'a');
  keep('chosen', 'a,b,c');
  expect(kept('chosen')).toBe('a,b,c');
  keep('chosen', 'b');
  expect(kept('chosen')).toBe('b');
  expect(held.get('chosen')).toBe('b');
});
