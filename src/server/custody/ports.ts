import type { OfJob, Services } from '../services';

/** What this room works with. */
export type Ports = Pick<Services, 'db' | 'events' | 'queue' | 'devices' | 'keepNow' | 'heedRecords' | 'who'>;
/** The same, in a job. */
export type InJob = Ports & OfJob;
