import type { CheckFolder } from '../core/custody';
import type { Listen } from '../core/choose';
import type { Extraction } from '../core/facts';
import type { z } from 'zod';
import type { ApplyRequest } from '../core/naming';
import type { MovePlace } from '../core/places';
import { type AdoptSearch, AT_ONCE } from '../core/proxies';
import { checkAgain, checkAnyFolder } from './custody';
import { listen } from './choose';
import { extract, readClips, readRestOfClips } from './facts';
import { checkPackage, handingOver } from './handover';
import { applyNaming, nameCopied, undoPlan } from './naming';
import { copying } from './offload';
import { awayOf, cannotBeRead } from './cards';
import type { Kind, Kinds, SingleKind, WorkContext } from './platform/work/kinds';
import { movePlace } from './places';
import { lookForLost, lookForProxies, makeOneProxy, provePairs, watchClips } from './proxies';
import type { JobServices } from './services';
import { makeFilmstrip } from './viewing';

/** A clip whose reading failed waits for it no longer: it says so itself. */
const told: Kind<JobServices>['told'] = async (db, { subject, state, fault }) => {
  if (state === 'failed') await cannotBeRead(db, [subject], fault);
};

/** A clip whose drive or card is out of reach is waited for. */
const away: Kind<JobServices>['away'] = awayOf;

/** What a person asked for, with `wanted` as it was asked: one at a time, and its outcome is kept for who asked. */
const asked = <W>(
  afterDeath: Kind<unknown>['afterDeath'],
  work: (runtime: JobServices, wanted: W, context: WorkContext) => Promise<unknown>,
): SingleKind<JobServices> => ({
  workers: 1,
  afterDeath,
  run: async (runtime, context) => ({ result: await work(runtime, context.wanted as W, context) }),
});

/** All long work: what does it, how much of it at once, and what becomes of it when the server ends in the middle. */
export const KINDS: Kinds<JobServices> = {
  read: { workers: 2, afterDeath: 'thrice', most: 24, runAll: readClips, told, away },
  rest: { workers: 2, afterDeath: 'thrice', most: 5, runAll: readRestOfClips, told, away },
  filmstrip: { workers: 1, afterDeath: 'thrice', run: makeFilmstrip, away },
  proxy: {
    workers: AT_ONCE,
    afterDeath: 'thrice',
    shownAs: 'clips',
    run: makeOneProxy,
    away: (r, clips, failed) => awayOf(r, clips, failed, ['proxies']),
  },
  copy: copying<JobServices>(nameCopied),
  check: { ...asked('thrice', (r, _, c) => checkAgain(r, c.subject, c)), workers: 3 },
  checkFolder: asked<CheckFolder>('thrice', checkAnyFolder),
  // A plan that was interrupted is finished at the next start, whoever asked for it.
  name: asked<z.infer<typeof ApplyRequest>>('never', applyNaming),
  undo: asked<{ plan: string; clips: string[] }>('never', (r, w, c) => undoPlan(r, w.plan, c, w.clips)),
  prove: asked<string[]>('thrice', provePairs),
  watchThrough: asked<string[]>('thrice', watchClips),
  adopt: asked<AdoptSearch>('never', lookForProxies),
  listen: asked<z.infer<typeof Listen>>('thrice', (r, w, c) => listen(r, w.clip, c)),
  findLost: asked<null>('never', (r, _, c) => lookForLost(r, c)),
  extract: asked<Extraction>('never', extract),
  handover: handingOver,
  movePlace: asked<MovePlace>('thrice', (r, w, c) => movePlace(r, c.subject, w.to, c)),
  checkHandover: asked<null>('thrice', (r, _, c) => checkPackage(r, c.subject, c)),
};
