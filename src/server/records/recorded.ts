import type { RecordedTable } from '../../core/records/replay';

/** How changes of a table are found. */
export interface Source extends RecordedTable {
  /** What is recorded of a row, as an SQL expression of `t`; all of it where absent. */
  row?: string;
  /** `seq`: rows are only ever added, in the order of `seq`. A condition: which rows can have changed, other rows are not looked at. */
  grows?: 'seq';
  within?: string;
  /** Which rows belong to a job, where they do not say so themselves; `true` for those that are of all jobs. */
  ofJob?: string;
  /** The column of the physical card by which rows come to belong to a job without being changed. */
  byCard?: string;
}

const of = (name: string, ...columns: string[]) => ({ columns, of: name });
/** Physical cards a job has named or copied. */
export const OF_CARDS =
  '(select physical from cards where job = $job and physical is not null union select physical from offloads where job = $job)';
const OF_CLIPS = '(select id from clips where job = $job)';
const OF_COPIES = '(select s.id from safe_copies s join offloads o on o.id = s.offload where o.job = $job)';
const OF_PACKAGES = '(select id from packages where job = $job)';

/** What a person says of a clip. Its row is changed with it (migration 0009). */
const SAID =
  "coalesce((select jsonb_agg(jsonb_build_object('field', s.field, 'value', s.value, 'source', 'person') order by s.seq) from said s where s.clip = t.id), '[]')";

/**
 * What is recorded beside the footage, parents before children. Not recorded: what is read from the files again (facts but for a
 * person's own), work that was queued, and the files of copyings, which follow from the manifests and readings.
 */
export const TABLES: readonly Source[] = [
  { name: 'roots', key: ['id'], needs: [], ofJob: 'true' },
  { name: 'jobs', key: ['id'], needs: [], row: "to_jsonb(t) - 'number'", ofJob: 't.id = $job' },
  { name: 'days', key: ['job', 'number'], needs: [of('jobs', 'job')] },
  { name: 'cameras', key: ['job', 'label'], needs: [of('jobs', 'job')] },
  { name: 'clocks', key: ['id'], needs: [of('cameras', 'job', 'camera')] },
  { name: 'field_sets', key: ['id'], needs: [], ofJob: 'true' },
  { name: 'conventions', key: ['id'], needs: [], ofJob: 'true' },
  { name: 'recipes', key: ['id'], needs: [], ofJob: 'true' },
  { name: 'forms', key: ['id'], needs: [], ofJob: 'true' },
  { name: 'templates', key: ['id'], needs: [], ofJob: 'true' },
  { name: 'watches', key: ['id'], needs: [of('jobs', 'job'), of('roots', 'root')] },
  { name: 'physical_cards', key: ['id'], needs: [], ofJob: `t.id in ${OF_CARDS}`, byCard: 'id' },
  // A card that is kept or seen again has its own row changed, too.
  {
    name: 'card_files',
    key: ['card', 'number'],
    needs: [of('physical_cards', 'card')],
    within: 't.card in (select id from physical_cards p where p.xmin::text::bigint > $from)',
    ofJob: `t.card in ${OF_CARDS}`,
    byCard: 'card',
  },
  {
    name: 'card_readings',
    key: ['seq'],
    needs: [of('physical_cards', 'card')],
    grows: 'seq',
    ofJob: `t.card in ${OF_CARDS}`,
    byCard: 'card',
  },
  {
    name: 'cards',
    key: ['job', 'id'],
    row: "to_jsonb(t) - 'clips'",
    needs: [
      of('physical_cards', 'physical'),
      of('cameras', 'job', 'camera'),
      of('days', 'job', 'day'),
      of('roots', 'root'),
    ],
  },
  {
    name: 'clips',
    key: ['id'],
    needs: [of('cards', 'job', 'card')],
    row: `jsonb_build_object('id', t.id, 'job', t.job, 'card', t.card, 'original', t.original, 'kind', t.kind, 'statements', ${SAID})`,
  },
  {
    name: 'files',
    key: ['id'],
    needs: [of('clips', 'clip'), of('roots', 'root')],
    ofJob: `t.clip in ${OF_CLIPS}`,
  },
  {
    name: 'places',
    key: ['seq'],
    needs: [of('files', 'file')],
    ofJob: `t.file in (select id from files where clip in ${OF_CLIPS})`,
  },
  {
    name: 'pairs',
    key: ['file'],
    needs: [of('files', 'file'), of('clips', 'clip')],
    ofJob: `t.clip in ${OF_CLIPS}`,
  },
  { name: 'keywords', key: ['id'], needs: [of('jobs', 'job')] },
  {
    name: 'ranges',
    key: ['id'],
    needs: [of('clips', 'clip')],
    ofJob: `t.clip in ${OF_CLIPS}`,
  },
  {
    name: 'keyworded',
    key: ['clip', 'keyword', 'range', 'by'],
    needs: [of('clips', 'clip'), of('keywords', 'keyword')],
    ofJob: `t.clip in ${OF_CLIPS}`,
  },
  {
    name: 'withheld',
    key: ['clip', 'keyword'],
    needs: [of('clips', 'clip'), of('keywords', 'keyword')],
    ofJob: `t.clip in ${OF_CLIPS}`,
  },
  { name: 'keyword_rules', key: ['id'], needs: [of('jobs', 'job')] },
  { name: 'bins', key: ['id'], needs: [of('jobs', 'job')] },
  {
    name: 'binned',
    key: ['bin', 'clip'],
    needs: [of('bins', 'bin'), of('clips', 'clip')],
    ofJob: `t.clip in ${OF_CLIPS}`,
  },
  { name: 'next_steps', key: ['clip', 'step'], needs: [of('clips', 'clip')], ofJob: `t.clip in ${OF_CLIPS}` },
  { name: 'searches', key: ['id'], needs: [of('jobs', 'job')] },
  { name: 'string_outs', key: ['id'], needs: [of('jobs', 'job')] },
  {
    name: 'strung',
    key: ['id'],
    needs: [of('string_outs', 'list'), of('clips', 'clip')],
    ofJob: `t.clip in ${OF_CLIPS}`,
  },
  { name: 'together', key: ['id'], needs: [of('jobs', 'job')] },
  {
    name: 'rolling',
    key: ['together', 'clip'],
    needs: [of('together', 'together'), of('clips', 'clip')],
    ofJob: `t.clip in ${OF_CLIPS}`,
  },
  { name: 'offloads', key: ['id'], needs: [of('jobs', 'job'), of('physical_cards', 'physical')] },
  {
    name: 'safe_copies',
    key: ['id'],
    needs: [of('physical_cards', 'physical')],
    ofJob: `t.id in ${OF_COPIES}`,
  },
  {
    name: 'copy_readings',
    key: ['seq'],
    needs: [of('safe_copies', 'copy')],
    grows: 'seq',
    ofJob: `t.copy in ${OF_COPIES}`,
  },
  { name: 'plans', key: ['id'], needs: [of('jobs', 'job')] },
  {
    name: 'steps',
    key: ['plan', 'number'],
    needs: [of('plans', 'plan')],
    ofJob: 't.plan in (select id from plans where job = $job)',
  },
  {
    name: 'numbers',
    key: ['plan', 'clip', 'series'],
    needs: [of('plans', 'plan')],
    ofJob: 't.plan in (select id from plans where job = $job)',
  },
  { name: 'packages', key: ['id'], needs: [of('jobs', 'job'), of('roots', 'root')] },
  {
    name: 'sendings',
    key: ['package', 'number'],
    needs: [of('packages', 'package')],
    ofJob: `t.package in ${OF_PACKAGES}`,
  },
  {
    name: 'package_files',
    key: ['package', 'number'],
    needs: [of('packages', 'package')],
    ofJob: `t.package in ${OF_PACKAGES}`,
  },
  { name: 'log', key: ['id'], needs: [of('jobs', 'job')] },
];
