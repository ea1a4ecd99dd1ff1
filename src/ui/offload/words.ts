import type { OffloadState } from '../../core/offload/shapes';

/** A copy's state as a word, with its tone. */
export const COPY_WORDS: Record<OffloadState, { word: string; tone: 'stop' | 'look' | 'proven' | 'plain' }> =
  {
    queued: { word: 'queued', tone: 'plain' },
    running: { word: 'copying', tone: 'plain' },
    paused: { word: 'paused', tone: 'look' },
    waiting: { word: 'waiting', tone: 'look' },
    naming: { word: 'naming on the shelf', tone: 'plain' },
    done: { word: 'verified', tone: 'proven' },
    partly: { word: 'not all copied', tone: 'stop' },
    cancelled: { word: 'cancelled', tone: 'plain' },
  };
