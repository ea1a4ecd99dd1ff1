import type { ServerEvent } from '../core/overview';
import type { Database, OpenDatabase } from './platform/db/client';
import type { Writer } from './platform/db/transaction';
import type { Events } from './platform/events';
import type { ViewCache } from './platform/viewCache';
import type { Devices } from './platform/volumes/devices';
import type { Work } from './platform/work/queue';
import type { RowChange } from './choose';
import type { SaidChange } from './facts';
import type { Undos } from './platform/undos';
import type { CopyMeter } from './offload';
import type { WatchKeeper } from './watch';
import type { VolumeWatch } from './places';

/**
 * What there is to work with, made once at the start by the runtime. A room says in its `ports.ts` what of it it uses, and is given
 * no more by its types; what it hands on to another room is what that one uses.
 */
export interface Services {
  /** The data folder. */
  home: string;
  db: Database;
  database: OpenDatabase;
  events: Events<ServerEvent>;
  viewCache: ViewCache;
  /** The queue of long work. */
  queue: Work;
  /** How running copies stand. */
  meter: Pick<CopyMeter, 'begin' | 'ratesOf'>;
  /** What was done to keywords, bins, ranges and searches, and what was said of clips, to be taken back. */
  undos: Undos<RowChange>;
  saidBack: Undos<SaidChange>;
  devices: Devices;
  /** The watched folders. */
  watching: Pick<WatchKeeper, 'state' | 'lookNow'>;
  /** Which volumes came and went since the start. */
  volumes: Pick<VolumeWatch, 'changed' | 'look'>;
  /** Flushes the database and writes the records beside the footage: what was found out about it must not be lost by a power cut. */
  keepNow(): Promise<void>;
  /**
   * Takes back that the copies in a root were read: it is another folder than it was, on this volume, and what is in it has to be checked
   * again. Within a transaction where one is given.
   */
  distrustCopies(root: string, volume: string | null, tx?: Writer): Promise<void>;
  /** Throws DataFolderGone where the data folder is not the one that was opened. */
  checkHome(): Promise<void>;
  /** Looks whether records beside the footage know more than the database, which is then heeded. Returns whether it was so. */
  heedRecords(): Promise<boolean>;
  /** Finishes interrupted plans; one whose drive is away is tried again until it is there. Within `exclusively` only. */
  recover(): Promise<void>;
  /** Runs work that moves or names footage, one at a time. */
  exclusively<T>(work: () => Promise<T>): Promise<T>;
  ffmpeg: string;
  who: string;
}

/** The job a use case works in, by its id. */
export interface OfJob {
  job: string;
}

/** Everything, as one job works with it. */
export type JobServices = Services & OfJob;

/** Services as one job works with them. */
export const inJob = <S extends object>(services: S, job: string): S & OfJob =>
  Object.assign(Object.create(services) as S, { job });
