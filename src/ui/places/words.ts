import type { PlaceGlance } from '../../core/intake';
import type { NewRoot, RootKind, VolumeView } from '../../core/places';
import { formatBytes, plural } from '../platform/format';

/** The parts a place can have, in working order, with what each means. */
export const PARTS: readonly { kind: RootKind; name: string; means: string }[] = [
  {
    kind: 'source',
    name: 'Read only',
    means: 'Cards and drives: clips are copied from it, nothing in it is changed.',
  },
  { kind: 'shelf', name: 'Name and sort', means: 'Clips in it are renamed and moved.' },
  { kind: 'safe', name: 'Safe copies', means: 'Whole cards are copied to it, and stay as they are.' },
  { kind: 'proxies', name: 'Proxies', means: 'Proxies are made in it.' },
  { kind: 'handover', name: 'Hand-over', means: 'Packages for others are written to it.' },
];

/** Those that can be chosen. */
export const CHOSEN_PARTS = PARTS.filter(
  (p): p is (typeof PARTS)[number] & { kind: NewRoot['kind'] } => p.kind !== 'proxies',
);

export const partName = (kind: RootKind): string => PARTS.find((p) => p.kind === kind)!.name;

/** What a volume or folder looks like: "DCIM: 212 clips; it is card D001, 3 of them new". Nothing of copies: those have their own answer. */
export function glanceWords(g: PlaceGlance): string {
  if (g.clips === 0) return g.whole ? 'no footage in it' : 'no footage in the part that was looked at';
  const clips = `${plural(g.clips, 'clip')}${g.whole ? '' : ' or more'}`;
  const fresh =
    g.known === null
      ? ', not seen before'
      : g.fresh === 0
        ? `; it is card ${g.known}, nothing new since it was last seen`
        : `; it is card ${g.known}, ${g.fresh} of them new`;
  return `${g.shapes.join(', ')}: ${clips}${fresh}`;
}

const KINDS: Readonly<Record<VolumeView['kind'], string>> = {
  system: 'the disk this computer runs from',
  disk: 'disk',
  network: 'network share',
  memory: 'memory: lost when the power goes',
  standIn: 'stand-in',
};

/** What a volume is, in a few words. */
export const volumeWords = (v: VolumeView): string =>
  [
    v.removable === true && v.kind === 'disk' ? 'card or plug-in disk' : KINDS[v.kind],
    v.kind === 'standIn' ? '' : v.type,
    v.readOnly ? 'read only' : '',
    v.total === null ? 'does not answer' : `${formatBytes(v.free ?? 0)} of ${formatBytes(v.total)} free`,
  ]
    .filter((w) => w !== '')
    .join(' · ');
