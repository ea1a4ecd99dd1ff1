import { type AsideFile, counterTurns } from '../../core/intake';
import { shownPath, type ShownPath } from '../../core/platform/names';
import { suspicionOf, type ClocksView } from '../../core/facts';
import type { CardView, ClipView } from '../../core/cards';
import type { Rolling, WallView } from '../../core/overview/shapes';
import type { cards } from '../cards/tables';
import type { InJob } from './ports';
import { openSuspicions } from '../facts';
import { clipView, type Everything, everything, missingNumbers, viewsOf } from '../cards';
import { safeCopyCounts } from '../custody';

type CardRow = typeof cards.$inferSelect;

function cardView(
  all: Everything,
  row: CardRow,
  views: readonly ClipView[],
  safe: number,
  suspicions: ClocksView['suspicions'],
): CardView {
  const gaps = missingNumbers(all, views);
  const clocks = suspicions.flatMap((s) => suspicionOf(row, s) ?? []);
  const oddities = [
    ...clocks,
    ...gaps,
    ...counterTurns(
      views.filter((v) => v.kind !== 'stills').map((v) => ({ name: v.original, recordedAt: v.recordedAt })),
    ),
  ];
  return {
    id: row.id,
    camera: row.camera,
    day: row.day,
    shape: row.shape,
    folder: shownPath(row.folder),
    takenAt: row.takenAt.toISOString(),
    clips: views.length,
    seconds: views.reduce((n, v) => n + (v.seconds ?? 0), 0),
    bytes: views.reduce((n, v) => n + v.bytes, 0),
    safe,
    done: {
      read: views.filter((v) => v.state !== 'waiting').length,
      named: views.filter((v) => v.named).length,
      proxied: views.filter((v) => v.pair.file !== null || v.pair.state === 'none').length,
      paired: views.filter((v) => v.pair.state === 'proven' || v.pair.state === 'none').length,
    },
    stop: views.filter((v) => v.problems.some((p) => p.level === 'stop')).length,
    look:
      views.filter((v) => v.problems.length > 0 && v.problems.every((p) => p.level === 'look')).length +
      oddities.length,
    aside: row.aside.length,
    oddities,
  };
}

export const wallView = (runtime: InJob): Promise<WallView> =>
  runtime.viewCache.get(`wall of ${runtime.job}`, async () => {
    const all = await everything(runtime);
    const byCard = new Map<string, ClipView[]>();
    for (const row of all.clips) {
      const list = byCard.get(row.card) ?? [];
      list.push(clipView(all, row));
      byCard.set(row.card, list);
    }
    const safe = await safeCopyCounts(runtime);
    const suspicions = await openSuspicions(runtime);
    const rolling: Rolling[] = [...byCard.values()].flat().flatMap((v) => {
      if (!v.recordedAt || v.seconds === null) return [];
      const [h, m, s] = v.recordedAt.slice(11).split(':').map(Number) as [number, number, number];
      const from = h * 3600 + m * 60 + s;
      return [{ clip: v.id, name: v.name, camera: v.camera, day: v.day, from, to: from + v.seconds }];
    });
    return {
      cards: [...all.cards.values()]
        .sort((a, b) => a.id.localeCompare(b.id, 'en', { numeric: true }))
        .map((c) => cardView(all, c, byCard.get(c.id) ?? [], safe.get(c.id) ?? 0, suspicions)),
      rolling,
    };
  });

/** A card with its clips. What looks wrong of its camera's clock is told by all of the job's clips, and asked for by itself (`openSuspicions`). */
export async function cardDetail(
  runtime: InJob,
  id: string,
): Promise<CardView & { asideFiles: (Omit<AsideFile, 'path'> & { path: ShownPath })[]; views: ClipView[] }> {
  const all = await everything(runtime, id);
  const views = viewsOf(all, id);
  const row = all.cards.get(id)!;
  const asideFiles = row.aside.map((a) => ({ ...a, path: shownPath(a.path) }));
  return {
    ...cardView(all, row, views, (await safeCopyCounts(runtime, id)).get(id) ?? 0, []),
    asideFiles,
    views,
  };
}
