import { searchField, Wanted } from '../../core/choose';
import type { SetView } from '../cards';

/** How a set is shown: its clips in one of three ways, or the ranges of them. */
export type PlaceView = SetView | 'ranges';

/** What of the job is open, and how it is shown: all of it stands in the address. */
export interface Place {
  wanted: Wanted;
  view: PlaceView;
  /** Width of a tile, pixels. */
  size: number;
  /** The clip in the drawer. */
  clip: string | null;
  /** The string-out that is shown in place of clips; null where none is. */
  list: string | null;
}

export const [SMALLEST, LARGEST, USUAL] = [130, 560, 160];
const VIEWS: readonly PlaceView[] = ['frames', 'spines', 'table', 'ranges'];

/** The place that an address says; what it does not say, or says wrong, is as at first. */
export function placeOf(address: URLSearchParams): Place {
  const [sort = '', down] = (address.get('sort') ?? '').split(' ');
  const wanted = Wanted.safeParse({
    query: address.get('find') ?? '',
    bin: address.get('bin'),
    by: address.get('by') ?? 'none',
    sort: searchField(sort) || sort === 'name' ? { by: sort, down: down === 'down' } : null,
  });
  const size = Number(address.get('size') ?? USUAL);
  return {
    wanted: wanted.success ? wanted.data : Wanted.parse({}),
    view: VIEWS.find((v) => v === address.get('as')) ?? 'frames',
    size: size >= SMALLEST && size <= LARGEST ? Math.round(size) : USUAL,
    clip: address.get('clip'),
    list: address.get('list'),
  };
}

/** The address of a place, as short as can be. */
export function addressOf({ wanted: { query, bin, by, sort }, view, size, clip, list }: Place): string {
  const says = new URLSearchParams();
  if (query !== '') says.set('find', query);
  if (bin !== null) says.set('bin', bin);
  if (by !== 'none') says.set('by', by);
  if (sort) says.set('sort', `${sort.by}${sort.down ? ' down' : ''}`);
  if (view !== 'frames') says.set('as', view);
  if (size !== USUAL) says.set('size', String(size));
  if (clip !== null) says.set('clip', clip);
  if (list !== null) says.set('list', list);
  return says.toString();
}
