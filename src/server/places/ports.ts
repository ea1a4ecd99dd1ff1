import type { Services } from '../services';

/** What this room works with. */
export type Ports = Pick<
  Services,
  'home' | 'db' | 'events' | 'devices' | 'exclusively' | 'who' | 'volumes' | 'distrustCopies'
>;
/** To move one that is in use. */
export type MovingPorts = Ports & Pick<Services, 'keepNow'>;
