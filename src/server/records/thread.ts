// What the thread that reads records is made of, bundled by scripts/threads.mjs.
export { replayed } from './replayed';
export const ready = (): void => undefined;
