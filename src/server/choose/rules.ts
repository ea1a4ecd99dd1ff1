import { randomUUID } from 'node:crypto';
import { and, eq } from 'drizzle-orm';
import { type Change, Rule, ruleWords, searchField, tidyName } from '../../core/choose';
import { NotFound, Refused } from '../platform/errors';
import type { Writer } from '../platform/db/transaction';
import { refuseOther } from './known';
import type { Planned, Rows } from './rows';
import { understood } from './search';
import { keywordRules } from './tables';

type Of<D extends Change['do']> = Extract<Change, { do: D }>;

const termOf = (rule: Rule): string => searchField(rule.field)?.term ?? rule.field;
export const said = (rule: Rule): string => ruleWords(rule, termOf(rule));

/** A rule as it is kept. Throws Refused where it makes no sense. */
export function checked(rule: Rule): Rule {
  const { kind, words, query, field, levels, without } = rule;
  switch (kind) {
    case 'search': {
      const name = tidyName(words);
      if (name === null)
        throw new Refused('The keyword of the rule is missing.', { next: 'Write which keyword it gives.' });
      if (query.trim() === '')
        throw new Refused('A rule without a search would give its keyword to every clip.', {
          next: 'Write what is searched for, as “rate over edit”.',
        });
      understood(query);
      return Rule.parse({ kind, words: name, query: query.trim(), without });
    }
    case 'field': {
      if (!searchField(field)?.fact) throw new Refused(`There is no field “${field}” of clips.`);
      return Rule.parse({ kind, words: words.trim(), field, without });
    }
    case 'folders':
      return Rule.parse({ kind, levels, without });
  }
}

/** Why a rule gives nothing any more; null where it is understood. */
export function faultOf(rule: Rule): string | null {
  try {
    checked(rule);
    return null;
  } catch (e) {
    if (e instanceof Refused) return e.message;
    throw e;
  }
}

async function ruleIn(tx: Writer, job: string, id: string): Promise<Rows['rules']> {
  const [row] = await tx
    .select()
    .from(keywordRules)
    .where(and(eq(keywordRules.job, job), eq(keywordRules.id, id)));
  if (!row) throw new NotFound('This rule was removed meanwhile.');
  return row;
}

export async function addRule(tx: Writer, job: string, change: Of<'addRule'>): Promise<Planned> {
  const rule = checked(change.rule);
  const there = await tx.select().from(keywordRules).where(eq(keywordRules.job, job));
  if (there.some((r) => said(r) === said(rule)))
    throw new Refused(`There is such a rule already: ${said(rule)}.`, { next: 'Change that one.' });
  return {
    rows: [{ table: 'rules', before: null, after: { ...rule, id: randomUUID(), job } }],
    text: `Keywords by a rule: ${said(rule)}`,
  };
}

export async function editRule(tx: Writer, job: string, change: Of<'editRule'>): Promise<Planned> {
  const before = await ruleIn(tx, job, change.rule);
  refuseOther('rule', { ...change, now: { ...before, name: said(before) } });
  const rule = checked(change.set);
  return {
    rows: [{ table: 'rules', before, after: { ...before, ...rule } }],
    text: `Rule of keywords changed: ${said(rule)}`,
  };
}

export async function removeRule(tx: Writer, job: string, change: Of<'removeRule'>): Promise<Planned> {
  const before = await ruleIn(tx, job, change.rule);
  return {
    rows: [{ table: 'rules', before, after: null }],
    text: `Rule of keywords removed: ${said(before)}; what it gave is taken back`,
  };
}
