import type { Services } from '../services';

/** What this room works with. */
export type Ports = Pick<
  Services,
  'home' | 'db' | 'events' | 'devices' | 'exclusively' | 'who' | 'volumes' | 'distrustCopies'
>;
