import { and, eq, sql } from 'drizzle-orm';
import { isDeepStrictEqual } from 'node:util';
import { type FieldId, fieldOf, type Statement } from '../../core/facts/catalogue';
import { chooseFacts, rateOf } from '../../core/facts/facts';
import { parseValue } from '../../core/facts/parse';
import type { Correction, Sayings } from '../../core/facts/shapes';
import type { Changed } from '../../core/platform/shapes';
import { plural } from '../../core/platform/words';
import { cardOfClip, isCard, statementsOf, moveToCard } from '../cards';
import { requireJob } from '../jobs';
import { writeLog } from '../logbook';
import { among } from '../platform/db/among';
import { cameras, cards, clips, days } from '../cards/tables';
import { said } from './tables';
import { Clash, NotFound, Refused } from '../platform/errors';
import { NOTHING_UNDONE, undoneWords } from '../platform/undos';
import type { Correcting, InJob, Ports } from './ports';
import { upToDate } from './workOut';

type Set = Correction['set'];
type Card = NonNullable<Correction['card']>;
type Corrected = { id: string; original: string };
type Transaction = Parameters<Parameters<Ports['db']['transaction']>[0]>[0];

/** Corrects many clips at once. What was read stays beside what the person says, which goes before it. */
export function correctClips(runtime: Correcting, { clips: ids, set, card }: Correction): Promise<Said> {
  return runtime.exclusively(async () => {
    const rows = await runtime.db
      .select({ id: clips.id, original: clips.original })
      .from(clips)
      .where(and(eq(clips.job, runtime.job), among(clips.id, ids)));
    if (rows.length === 0) throw new NotFound('None of these clips is in the job any longer.');
    const words = set.length > 0 ? await valuesOf(runtime, rows, set) : [];
    if (card) await refuseClash(runtime, card);
    const changes = await runtime.db.transaction(async (tx) => {
      const said = words.length > 0 ? await say(tx, words) : [];
      if (card) await moveTo(tx, runtime.job, rows, card);
      return said;
    });
    const what = [
      ...set.map((s) =>
        s.value.trim() === ''
          ? `removed the correction of ${inSentence(fieldOf(s.field).term)}`
          : `${inSentence(fieldOf(s.field).term)} ${s.value}`,
      ),
      ...(card ? [`card ${card.id}, camera ${card.camera}, day ${card.day}`] : []),
    ];
    const text = `Corrected ${plural(rows.length, 'clip')}: ${what.join(', ')}`;
    const done = await told(runtime, text, changes);
    runtime.events.changed('job');
    return { changed: rows.length, ...done };
  });
}

/** Writes in the logbook what was said, works out what follows from it, and keeps how it was before. */
async function told(runtime: Correcting, text: string, changes: readonly SaidChange[]): Promise<Changed> {
  const undo = changes.length === 0 ? null : runtime.saidBack.keep({ job: runtime.job, text, changes });
  await writeLog(runtime, 'facts', text);
  await upToDate(runtime);
  runtime.events.changed('clips', 'cards', 'log');
  return { text, undo };
}

/** Takes back what was said of clips, as far as nobody said otherwise since; what it answers takes that back in turn. */
export function undoSaid(runtime: Correcting, id: string): Promise<Changed> {
  return runtime.exclusively(async () => {
    const done = runtime.saidBack.require(runtime.job, id);
    const changes = await runtime.db.transaction(async (tx) => {
      const now = new Map((await saidNow(tx, done.changes)).map((s) => [`${s.clip} ${s.field}`, s.value]));
      const back = done.changes.flatMap(({ clip, field, before, value }): Word[] => {
        const current = now.get(`${clip} ${field}`);
        // Of a clip that has gone meanwhile nothing is known.
        return current !== undefined && isDeepStrictEqual(current, value)
          ? [{ clip, field, value: before }]
          : [];
      });
      return back.length === 0 ? [] : say(tx, back);
    });
    runtime.saidBack.forget(id);
    if (changes.length === 0) return NOTHING_UNDONE;
    const kept = done.changes.length - changes.length;
    const stay =
      kept === 0
        ? ''
        : ` (${plural(kept, 'value')} changed since ${kept === 1 ? 'stays as it is' : 'stay as they are'})`;
    const changed = await told(runtime, `${undoneWords(done.text)}${stay}`, changes);
    runtime.events.changed('job');
    return changed;
  });
}

/** Keeps what a person says of clips one by one, as typed in a column or read from a list: all of it, or nothing where something is no value. */
export function sayOfClips(runtime: Correcting, { said: list }: Sayings): Promise<Said> {
  return runtime.exclusively(async () => {
    const byClip = new Map<string, Set>();
    for (const { clip, field, value } of list)
      byClip.set(clip, [...(byClip.get(clip) ?? []).filter((s) => s.field !== field), { field, value }]);
    const rows = await runtime.db
      .select({ id: clips.id, original: clips.original })
      .from(clips)
      .where(and(eq(clips.job, runtime.job), among(clips.id, [...byClip.keys()])));
    if (rows.length === 0) throw new NotFound('None of these clips is in the job any longer.');
    // Clips of which the same is said are looked at together.
    const groups = new Map<string, { set: Set; rows: Corrected[] }>();
    for (const row of rows) {
      const set = byClip.get(row.id)!;
      const key = JSON.stringify(set);
      const group = groups.get(key);
      if (group) group.rows.push(row);
      else groups.set(key, { set, rows: [row] });
    }
    const words: Word[] = [];
    for (const group of groups.values()) words.push(...(await valuesOf(runtime, group.rows, group.set)));
    const changes = await runtime.db.transaction((tx) => say(tx, words));
    const terms = [...new Set(list.map((l) => inSentence(fieldOf(l.field).term)))];
    const text = `Filled in ${terms.join(', ')} of ${plural(rows.length, 'clip')}`;
    return { changed: rows.length, ...(await told(runtime, text, changes)) };
  });
}

/** Of how many clips something was said, and how that is taken back. */
type Said = Changed & { changed: number };

interface Word {
  clip: string;
  field: FieldId;
  /** Null where what was said is taken back. */
  value: Statement['value'] | null;
}

/** A field's term within a sentence: ISO stays as it is, Frame rate does not. */
const inSentence = (term: string): string => (/^[A-Z]{2}/.test(term) ? term : term.toLowerCase());

/** What is said of each clip. A timecode is read at the rate of the clip, as it is said with it. Throws Refused for what is no value. */
async function valuesOf(runtime: InJob, rows: readonly Corrected[], set: Set): Promise<Word[]> {
  const { trust } = await requireJob(runtime);
  const out: Word[] = [];
  for (let i = 0; i < rows.length; i += 500) {
    const some = rows.slice(i, i + 500);
    const stated = await statementsOf(
      runtime.db,
      some.map((r) => r.id),
    );
    for (const { id, original } of some) {
      let statements = stated.get(id) ?? [];
      for (const { field, value } of set) {
        statements = statements.filter((s) => !(s.field === field && s.source === 'person'));
        if (value.trim() === '') {
          out.push({ clip: id, field, value: null });
          continue;
        }
        const parsed = parseValue(field, value, rateOf(chooseFacts(statements, trust)));
        if (!parsed)
          throw new Refused(`“${value}” is not a valid ${inSentence(fieldOf(field).term)} for ${original}.`, {
            next: HINTS[fieldOf(field).type] ?? 'Check what you typed.',
          });
        statements = [...statements, { field, value: parsed, source: 'person' }];
        out.push({ clip: id, field, value: parsed });
      }
    }
  }
  return out;
}

/** What was said of a clip, and before that; null where nothing was. */
export interface SaidChange extends Word {
  before: Statement['value'] | null;
}

/** What is said of these clips now, null where nothing is; clips that are gone are left out. */
async function saidNow(tx: Transaction, of: readonly Pick<Word, 'clip' | 'field'>[]): Promise<Word[]> {
  const out: Word[] = [];
  for (let i = 0; i < of.length; i += 1000) {
    const some = JSON.stringify(of.slice(i, i + 1000).map(({ clip, field }) => ({ clip, field })));
    out.push(
      ...(
        await tx.execute<Word & Record<string, unknown>>(sql`
          select w.clip, w.field, s.value from json_to_recordset(${some}::json) as w(clip text, field text)
          join ${clips} c on c.id = w.clip left join ${said} s on s.clip = w.clip and s.field = w.field`)
      ).rows,
    );
  }
  return out;
}

/** What is said last of a field counts, and is last. Answers what that changed. */
async function say(tx: Transaction, words: readonly Word[]): Promise<SaidChange[]> {
  const before = new Map<string, Statement['value']>();
  for (let i = 0; i < words.length; i += 1000) {
    const some = JSON.stringify(words.slice(i, i + 1000));
    const { rows } = await tx.execute<Word & Record<string, unknown>>(sql`
      delete from ${said} s using json_to_recordset(${some}::json) as w(clip text, field text)
      where s.clip = w.clip and s.field = w.field returning s.clip, s.field, s.value`);
    for (const { clip, field, value } of rows) before.set(`${clip} ${field}`, value!);
    await tx.execute(sql`
      insert into ${said} (clip, field, value)
      select clip, field, value from json_to_recordset(${some}::json) as w(clip text, field text, value jsonb)
      where value is not null and value <> 'null'::jsonb
      on conflict (clip, field) do update set value = excluded.value`);
  }
  return words
    .map((w) => ({ ...w, before: before.get(`${w.clip} ${w.field}`) ?? null }))
    .filter((c) => !isDeepStrictEqual(c.before, c.value));
}

async function refuseClash({ db, job }: InJob, card: Card): Promise<void> {
  for (const day of await db.select().from(days).where(eq(days.job, job))) {
    if (day.number === card.day && day.date !== null && card.date !== null && day.date !== card.date)
      throw new Clash(`Day ${day.number} is ${day.date}, not ${card.date}.`, {
        next: 'Choose another day number.',
      });
  }
  const [there] = await db.select().from(cards).where(isCard(job, card.id));
  if (there && (there.camera !== card.camera || there.day !== card.day))
    throw new Clash(`${card.id} is a card of camera ${there.camera}, day ${there.day}.`, {
      next: 'Choose another card id, or give that camera and day.',
    });
}

/** Clips become those of another card, made like the one they were of; a card that holds nothing any more goes. */
async function moveTo(tx: Transaction, job: string, rows: readonly Corrected[], card: Card): Promise<void> {
  const [from] = await tx
    .select({ card: cards })
    .from(clips)
    .innerJoin(cards, cardOfClip)
    .where(eq(clips.id, rows[0]!.id));
  await tx.insert(cameras).values({ job, label: card.camera, model: null }).onConflictDoNothing();
  await tx.insert(days).values({ job, number: card.day, date: card.date }).onConflictDoNothing();
  await tx
    .insert(cards)
    .values({
      ...from!.card,
      id: card.id,
      camera: card.camera,
      day: card.day,
      aside: [],
      takenAt: new Date(),
      clips: 0,
    })
    .onConflictDoNothing();
  const ids = rows.map((r) => r.id);
  await moveToCard(tx, job, ids, from!.card.id, card.id);
}

const HINTS: Record<string, string> = {
  timecode: 'Write it as 14:22:05:00, with ; before the frames for drop-frame, and frames below the rate.',
  rate: 'Write it as 25, 29.97 or 30000/1001; from 0.01 to 100 000 frames a second.',
  moment: 'Write it as 2026-05-06 14:22:05.',
  count: 'Write a whole number, not below zero.',
  number: 'Write a number, as 2.8 or 1250.',
  flag: 'Write yes or no.',
  triple: 'Write three numbers.',
  fraction: 'Write it as 1/50.',
};
