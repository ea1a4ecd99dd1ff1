import type { RecordedTable } from '../../core/records/replay';

/** How changes of a table are found. */
export interface Source extends RecordedTable {
  /** What is recorded of a row, as an SQL expression of `t`; all of it where absent. */
  row?: string;
  /** `seq`: rows are only ever added, in the order of `seq`. A condition: which rows can have changed, other rows are not looked at. */
  grows?: 'seq';
  within?: string;
}

const of = (name: string, column: string) => ({ columns: [column], of: name });

/**
 * What is recorded beside the footage, parents before children. Not recorded: what is read from the files again (facts but for a
 * person's own), work that was queued, and the files of copyings, which follow from the manifests and readings.
 */
export const TABLES: readonly Source[] = [
  { name: 'roots', key: ['id'], needs: [] },
  { name: 'jobs', key: ['id'], needs: [] },
  { name: 'days', key: ['number'], needs: [] },
  { name: 'cameras', key: ['letter'], needs: [] },
  { name: 'clocks', key: ['id'], needs: [of('cameras', 'camera')] },
  { name: 'field_sets', key: ['id'], needs: [] },
  { name: 'physical_cards', key: ['id'], needs: [] },
  // A card that is kept or seen again has its own row changed, too.
  {
    name: 'card_files',
    key: ['card', 'number'],
    needs: [of('physical_cards', 'card')],
    within: 't.card in (select id from physical_cards p where p.xmin::text::bigint > $from)',
  },
  { name: 'card_readings', key: ['seq'], needs: [of('physical_cards', 'card')], grows: 'seq' },
  {
    name: 'cards',
    key: ['id'],
    needs: [
      of('physical_cards', 'physical'),
      of('cameras', 'camera'),
      of('days', 'day'),
      of('roots', 'root'),
    ],
  },
  {
    name: 'clips',
    key: ['id'],
    needs: [of('cards', 'card')],
    row: `jsonb_build_object('id', t.id, 'card', t.card, 'original', t.original, 'kind', t.kind, 'statements', jsonb_path_query_array(t.statements, '$[*] ? (@.source == "person")'))`,
  },
  { name: 'files', key: ['id'], needs: [of('clips', 'clip'), of('roots', 'root')] },
  { name: 'pairs', key: ['file'], needs: [of('files', 'file'), of('clips', 'clip')] },
  { name: 'offloads', key: ['id'], needs: [of('physical_cards', 'physical')] },
  { name: 'safe_copies', key: ['id'], needs: [of('physical_cards', 'physical')] },
  { name: 'copy_readings', key: ['seq'], needs: [of('safe_copies', 'copy')], grows: 'seq' },
  { name: 'plans', key: ['id'], needs: [] },
  { name: 'steps', key: ['plan', 'number'], needs: [of('plans', 'plan')] },
  { name: 'log', key: ['id'], needs: [] },
];
