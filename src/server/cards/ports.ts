import type { OfJob, Services } from '../services';

/** What this room works with. */
export type Ports = Pick<Services, 'db' | 'queue'>;
/** The same, in a job. */
export type InJob = Ports & OfJob;
/** What it takes to see whether footage is within reach. */
export type Reaching = Pick<Services, 'db' | 'devices' | 'home'>;
/** What lists of very many clips are asked of. */
export type Listing = InJob & Pick<Services, 'database'>;
