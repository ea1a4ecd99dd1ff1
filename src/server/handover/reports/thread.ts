// What the thread that makes PDFs is made of, bundled by scripts/threads.mjs.
export { pdf } from './pdf';
export const ready = (): void => undefined;
