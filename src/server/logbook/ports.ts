import type { Services } from '../services';

/** What this room works with. */
export type Ports = Pick<Services, 'db' | 'who'>;
