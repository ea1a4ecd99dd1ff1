import {
  existsSync,
  lstatSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import path from 'node:path';
import type { Devices } from '../../server/platform/volumes/devices';
import type { ListedVolume } from '../../server/platform/volumes/volumes';
import { Faults, type StandInAction, type StandInsView } from '../../core/offload';
import { NotFound, Refused } from '../../server/platform/errors';
import { isWithin } from '../../server/platform/files/paths';

// Stand-ins for a card reader and for drives, as folders: `drawer` holds the cards, `readers/<slot>` those plugged in,
// `drives/<name>` the drives, `faults/<name>.json` what a slot or drive is told to do wrong. docs/how-it-works.md.

const names = (folder: string): string[] =>
  existsSync(folder)
    ? readdirSync(folder)
        .filter((n) => !n.startsWith('.'))
        .sort()
    : [];
const faultFile = (folder: string, of: string): string => path.join(folder, 'faults', `${of}.json`);

/** What a slot or drive is told to do wrong. Read anew each time: it may be told while a copy runs. */
export function faultsOf(folder: string, of: string): Faults {
  try {
    return Faults.parse(JSON.parse(readFileSync(faultFile(folder, of), 'utf8')));
  } catch {
    return Faults.parse({});
  }
}

/** The part of a path below one of the stand-ins' folders: which slot or drive, and what in it. `null` elsewhere. */
export function placeIn(
  folder: string,
  kind: 'readers' | 'drives',
  file: string,
): { of: string; rest: string } | null {
  const base = path.join(folder, kind);
  if (file === base || !isWithin(file, base)) return null;
  const [of, ...rest] = path.relative(base, file).split(path.sep);
  return { of: of!, rest: rest.join('/') };
}

const bytesBelow = (folder: string): number =>
  readdirSync(folder, { withFileTypes: true }).reduce(
    (n, e) =>
      n +
      (e.isDirectory() ? bytesBelow(path.join(folder, e.name)) : lstatSync(path.join(folder, e.name)).size),
    0,
  );

/** Bytes free on a stand-in drive; null where it holds as many as its volume. */
export function freeOf(folder: string, drive: string): number | null {
  const { capacity } = faultsOf(folder, drive);
  return capacity === null ? null : Math.max(0, capacity - bytesBelow(path.join(folder, 'drives', drive)));
}

/** The cards in the readers and the drives, as volumes. */
const standInVolumes = (folder: string): ListedVolume[] =>
  [
    ...names(path.join(folder, 'readers')).flatMap((slot) =>
      names(path.join(folder, 'readers', slot)).map((card) => path.join(folder, 'readers', slot, card)),
    ),
    ...names(path.join(folder, 'drives')).map((n) => path.join(folder, 'drives', n)),
  ].map((at) => ({
    at,
    label: path.basename(at),
    type: 'stand-in',
    kind: 'standIn',
    removable: true,
    readOnly: false,
  }));

/** The devices with stand-ins in place of readers and drives. */
export function standInDevices(folder: string, disks: Devices): Devices {
  const standIn = path.join(process.cwd(), '.cache/threads/cardReader.mjs');
  return {
    async volumeOf(at) {
      const volume = await disks.volumeOf(at);
      const drive = placeIn(folder, 'drives', at);
      if (!volume || !drive) return volume;
      const { capacity } = faultsOf(folder, drive.of);
      return {
        ...volume,
        id: `stand-in ${drive.of}`,
        name: `drive ${drive.of}`,
        standIn: true,
        free: freeOf(folder, drive.of) ?? volume.free,
        total: capacity ?? volume.total,
      };
    },
    mountOf(at) {
      // A card in a slot is a volume of its own, and so is a drive.
      const slot = placeIn(folder, 'readers', at);
      const card = slot?.rest.split('/')[0];
      if (card) return path.join(folder, 'readers', slot.of, card);
      const drive = placeIn(folder, 'drives', at);
      return drive ? path.join(folder, 'drives', drive.of) : disks.mountOf(at);
    },
    mounted: () => [
      ...disks.mounted(),
      ...names(path.join(folder, 'drives')).map((n) => path.join(folder, 'drives', n)),
    ],
    volumes: () => [...disks.volumes(), ...standInVolumes(folder)],
    mountState: () =>
      [
        disks.mountState(),
        ...names(path.join(folder, 'drives')).map((n) => `${n} ${faultsOf(folder, n).volume}`),
        ...standInVolumes(folder).map((v) => v.at),
      ].join('\n'),
    diskOf(at) {
      const card = placeIn(folder, 'readers', at)?.rest.split('/')[0];
      if (card)
        return {
          kind: 'standIn',
          disks: [`stand-in card ${card}`],
          lasting: false,
          name: `the stand-in card ${card}`,
        };
      const drive = placeIn(folder, 'drives', at);
      if (!drive) return disks.diskOf(at);
      const disk = faultsOf(folder, drive.of).disk ?? drive.of;
      return {
        kind: 'standIn',
        disks: [`stand-in ${disk}`],
        lasting: true,
        name: `the stand-in disk ${disk}`,
      };
    },
    volumeIdOf(at) {
      const drive = placeIn(folder, 'drives', at);
      return drive ? `stand-in ${faultsOf(folder, drive.of).volume ?? drive.of}` : disks.volumeIdOf(at);
    },
    readerOf: (at) => (placeIn(folder, 'readers', at) ? standIn : disks.readerOf(at)),
    writerOf: (at) => (placeIn(folder, 'drives', at) ? standIn : disks.writerOf(at)),
  };
}

/** Makes the empty stand-ins; returns the folders that are roots. */
export function makeStandIns(folder: string): { readers: string[]; drives: string[] } {
  for (const f of [
    'drawer',
    'faults',
    'readers/Reader 1',
    'readers/Reader 2',
    'drives/North',
    'drives/South',
  ])
    // Else the bundler would take every file of the project for one that a route may read.
    mkdirSync(path.join(/* turbopackIgnore: true */ folder, f), { recursive: true });
  return {
    readers: names(path.join(folder, 'readers')).map((n) => path.join(folder, 'readers', n)),
    drives: names(path.join(folder, 'drives')).map((n) => path.join(folder, 'drives', n)),
  };
}

/** What is plugged in and what lies in the drawer; `null` where there are no stand-ins. */
export function standInsView(): StandInsView | null {
  const folder = process.env.SORT_SHELF_STAND_INS;
  if (!folder) return null;
  return {
    slots: names(path.join(folder, 'readers')).map((name) => ({
      name,
      path: path.join(folder, 'readers', name),
      card: names(path.join(folder, 'readers', name))[0] ?? null,
      faults: faultsOf(folder, name),
    })),
    drawer: names(path.join(folder, 'drawer')),
    drives: names(path.join(folder, 'drives')).map((name) => ({
      name,
      path: path.join(folder, 'drives', name),
      faults: faultsOf(folder, name),
    })),
  };
}

/** Plugs a card in, pulls it out, or tells a stand-in what to do wrong. */
export function actOnStandIn(a: StandInAction): void {
  const folder = process.env.SORT_SHELF_STAND_INS;
  const view = standInsView();
  if (!folder || !view)
    throw new NotFound('There are no stand-ins here.', {
      next: 'They come with the demonstration: npm run demo.',
    });
  if (a.action === 'faults') {
    if (![...view.slots, ...view.drives].some((s) => s.name === a.of))
      throw new NotFound(`There is no ${a.of}.`);
    for (const mark of names(path.join(folder, 'faults', 'marks')))
      if (mark.startsWith(`${a.of}-`)) rmSync(path.join(folder, 'faults', 'marks', mark));
    mkdirSync(path.join(folder, 'faults'), { recursive: true });
    writeFileSync(faultFile(folder, a.of), JSON.stringify(a.faults));
    return;
  }
  const slot = view.slots.find((s) => s.name === a.slot);
  if (!slot) throw new NotFound(`There is no slot ${a.slot}.`);
  if (a.action === 'pull') {
    if (slot.card === null) throw new Refused(`${slot.name} is empty.`);
    renameSync(path.join(slot.path, slot.card), path.join(folder, 'drawer', slot.card));
    return;
  }
  if (slot.card !== null)
    throw new Refused(`${slot.card} is in ${slot.name}.`, { next: 'Pull it out first.' });
  if (!view.drawer.includes(a.card) || !statSync(path.join(folder, 'drawer', a.card)).isDirectory())
    throw new NotFound(`There is no card ${a.card} in the drawer.`);
  renameSync(path.join(folder, 'drawer', a.card), path.join(slot.path, a.card));
}
