import { makeFilmstrip } from './viewing';
import { makeOneProxy } from './proxies';
import { readClips, readRestOfClips } from './facts';
import type { Handlers } from './platform/work/queue';

export const HANDLERS: Handlers = {
  read: { most: 24, run: readClips },
  rest: { most: 5, run: readRestOfClips },
  filmstrip: makeFilmstrip,
  proxy: makeOneProxy,
};
