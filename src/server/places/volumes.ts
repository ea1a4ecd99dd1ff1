import path from 'node:path';
import type { PlacesView, VolumeView } from '../../core/places';
import { statfs } from '../platform/files/onDisk';
import { isWithin } from '../platform/files/paths';
import { askVolume } from '../platform/volumes/answering';
import type { Devices } from '../platform/volumes/devices';
import { type ListedVolume, TRIED_ON } from '../platform/volumes/volumes';
import { listRoots } from './list';
import type { Ports } from './ports';
import { placeViews } from './roots';

/** What a volume is called: its label, or where it is mounted. */
const nameOf = (v: ListedVolume): string =>
  v.kind === 'system' ? 'This computer' : (v.label ?? (path.basename(v.at) || v.at));

/** Remembers which volumes there were, to say which came and went. */
export class VolumeWatch {
  #state: string;
  #known: Map<string, string>;
  #changed: PlacesView['changed'] = null;

  constructor(private readonly devices: Pick<Devices, 'volumes' | 'mountState'>) {
    this.#state = devices.mountState();
    this.#known = this.#list();
  }

  /** The volumes by where they are and what they are: another card in the same reader is another volume. */
  #list(): Map<string, string> {
    return new Map(this.devices.volumes().map((v) => [JSON.stringify([v.at, v.label, v.type]), nameOf(v)]));
  }

  /** Looks anew. Returns whether anything about mounts is different from the last look. */
  look(): boolean {
    const state = this.devices.mountState();
    if (state === this.#state) return false;
    this.#state = state;
    const now = this.#list();
    const missingIn = (one: Map<string, string>, other: Map<string, string>) =>
      [...one].filter(([key]) => !other.has(key)).map(([, name]) => name);
    const [came, went] = [missingIn(now, this.#known), missingIn(this.#known, now)];
    this.#known = now;
    if (came.length + went.length > 0) this.#changed = { at: new Date().toISOString(), came, went };
    return true;
  }

  get changed(): PlacesView['changed'] {
    return this.#changed;
  }
}

/** What is smaller holds no footage: programs mount such volumes for themselves. Bytes. */
const SMALLEST = 1 << 20;

/** The volumes this computer sees, with the room on each and the roots on it: what is plugged in first, the system's last. */
export async function volumeViews({ db, devices }: Pick<Ports, 'db' | 'devices'>): Promise<VolumeView[]> {
  const listed = devices.volumes();
  const roots = await listRoots({ db });
  const volumeOf = (at: string) =>
    listed
      .filter((v) => isWithin(at, v.at))
      .reduce<ListedVolume | null>((best, v) => (v.at.length >= (best?.at.length ?? 0) ? v : best), null);
  const on = new Map<ListedVolume | null, string[]>();
  for (const r of roots) on.set(volumeOf(r.path), [...(on.get(volumeOf(r.path)) ?? []), r.id]);
  const views = await Promise.all(
    listed.map(async (v): Promise<VolumeView> => {
      const room = await askVolume(v.at, () => statfs(v.at).catch(() => null), null);
      return {
        at: v.at,
        name: nameOf(v),
        type: v.type,
        kind: v.kind,
        removable: v.removable,
        readOnly: v.readOnly,
        free: room && room.bavail * room.bsize,
        total: room && room.blocks * room.bsize,
        roots: on.get(v) ?? [],
      };
    }),
  );
  const rank = (v: VolumeView) => (v.kind === 'system' ? 2 : v.removable ? 0 : 1);
  return views
    .filter((v) => v.total === null || v.total >= SMALLEST)
    .sort((a, b) => rank(a) - rank(b) || a.name.localeCompare(b.name, 'en', { numeric: true }));
}

/** Everything the screen of places shows. */
export async function placesView(
  runtime: Pick<Ports, 'db' | 'devices' | 'home' | 'volumes'>,
): Promise<PlacesView> {
  const [places, volumes] = await Promise.all([placeViews(runtime), volumeViews(runtime)]);
  return { places, volumes, changed: runtime.volumes.changed, tried: TRIED_ON.includes(process.platform) };
}
