import type { NamingData, NamingRequest } from './shapes';

type Clips = NamingData['clips'];

/** The job's clips and those that are coming from a card: their numbers go on after those that are there. */
export const withComing = (data: NamingData, coming: Clips): NamingData => ({
  ...data,
  clips: [...data.clips, ...coming],
});

/** A plan of what is coming only, whatever else is asked for: the others are counted, and stay as they are. */
export const ofComing = (request: NamingRequest, coming: Clips): NamingRequest => ({
  ...request,
  cards: [],
  // None is none: an empty choice would be all.
  clips: coming.length === 0 ? ['none'] : coming.map((c) => c.id),
  without: [],
});
