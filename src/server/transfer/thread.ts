// What a copying thread is made of, bundled by scripts/threads.mjs.
export { copy, expected, generation, hash, ready } from './worker';
