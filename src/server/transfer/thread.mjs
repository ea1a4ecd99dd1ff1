// What a worker thread loads first: it makes TypeScript loadable, then hands over. The threads run outside the bundle.
import { register } from 'tsx/esm/api';

register();
const { copy, expected, generation, hash, ready } = await import('./worker.ts');
export { copy, expected, generation, hash, ready };
