import { makeFilmstrip } from '../usecases/makeFilmstrip';
import { makeOneProxy } from '../usecases/makeProxies';
import { readClips, readRestOfClips } from '../usecases/readClips';
import type { Handlers } from './queue';

export const HANDLERS: Handlers = {
  read: { most: 24, run: readClips },
  rest: { most: 5, run: readRestOfClips },
  filmstrip: makeFilmstrip,
  proxy: makeOneProxy,
};
