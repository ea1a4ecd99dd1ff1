import type { ComponentProps } from 'react';
import type { Convention, FolderPlan, NamingRule } from '../../core/naming/convention';
import { LibraryMenu } from './LibraryMenu';
import styles from './naming.module.css';
import { RuleBar } from './RuleBar';

/** Changes what is on the bench: a convention, folders, or both. */
export type SetPart = (part: { convention?: Convention; folderPlan?: FolderPlan }) => void;

/** What the convention is called, the library it may be kept in, and the rules that set others for some clips. */
export function BenchHead({
  convention,
  folderPlan,
  set,
  rules,
  setRules,
  editing,
  edit,
  known,
  suggest,
}: {
  convention: Convention;
  folderPlan: FolderPlan;
  set: SetPart;
  rules: readonly NamingRule[];
  setRules: (rules: NamingRule[]) => void;
  /** The rule on the bench; empty for what holds for all others. */
  editing: string;
  edit: (rule: string) => void;
  known: ComponentProps<typeof RuleBar>['known'];
  suggest: ComponentProps<typeof LibraryMenu>['suggest'];
}) {
  return (
    <header className={styles.head}>
      <h1>Convention</h1>
      <input
        className={styles.conventionName}
        aria-label="Name of the convention"
        value={convention.name}
        maxLength={80}
        onChange={(e) =>
          e.target.value !== '' && set({ convention: { ...convention, name: e.target.value } })
        }
      />
      <LibraryMenu kept={{ convention, folderPlan }} take={set} suggest={suggest} />
      <RuleBar
        rules={rules}
        set={setRules}
        editing={editing}
        edit={edit}
        begin={(scope) => ({ id: newId(rules), scope, convention, folderPlan })}
        known={known}
      />
    </header>
  );
}

function newId(rules: readonly NamingRule[]): string {
  let n = rules.length + 1;
  while (rules.some((r) => r.id === `rule-${n}`)) n++;
  return `rule-${n}`;
}
