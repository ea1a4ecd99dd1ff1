'use client';
import { useState } from 'react';
import { type Block, moduleOf } from '../../core/naming/blocks';
import { Choice, Count, Field, SettingInput } from './SettingInput';
import styles from './naming.module.css';

/** The chosen block's settings: its own, what is before it, and how its text is finished. */
export function BlockSettings({
  block,
  first,
  set,
}: {
  block: Block;
  first: boolean;
  set: (block: Block) => void;
}) {
  const [more, setMore] = useState(false);
  const kind = moduleOf(block.kind);
  const change = (part: Partial<Block>) => set({ ...block, ...part });
  return (
    <div className={styles.settings} role="group" aria-label={`Settings of ${kind.term}`}>
      <strong title={kind.meaning}>{kind.term}</strong>
      {kind.settings.map((s) => (
        <SettingInput
          key={s.key}
          setting={s}
          value={block.own[s.key]}
          set={(v) => change({ own: { ...block.own, [s.key]: v } })}
        />
      ))}
      {kind.settings.length === 0 && <span className="soft">{kind.meaning}</span>}
      <span className={styles.dot}>·</span>
      {!first && (
        <Field label="before it" value={block.before} most={8} set={(before) => change({ before })} />
      )}
      {kind.always !== true && (
        <Choice
          label="where it is missing"
          value={block.missing}
          options={[
            ['leaveOut', 'leave it out'],
            ['word', 'use a word'],
            ['stop', 'stop'],
          ]}
          set={(missing) => change({ missing })}
        />
      )}
      {block.missing === 'word' && (
        <Field label="the word" value={block.word} most={40} set={(word) => change({ word })} />
      )}
      <button type="button" className={styles.more} aria-expanded={more} onClick={() => setMore(!more)}>
        {more ? 'Less' : 'More …'}
      </button>
      {more && <Further block={block} change={change} />}
    </div>
  );
}

/** How a block's text is finished. */
function Further({ block, change }: { block: Block; change: (part: Partial<Block>) => void }) {
  return (
    <div className={styles.furtherSettings}>
      <Choice
        label="letters"
        value={block.letters}
        options={[
          ['asTheyAre', 'as they are'],
          ['upper', 'CAPITALS'],
          ['lower', 'small'],
        ]}
        set={(letters) => change({ letters })}
      />
      <Choice
        label="spaces"
        value={block.spaces ?? 'keep'}
        options={[
          ['-', 'become -'],
          ['_', 'become _'],
          ['', 'go'],
          ['keep', 'stay'],
        ]}
        set={(spaces) => change({ spaces: spaces === 'keep' ? null : spaces })}
      />
      <Choice
        label="accents"
        value={block.plain ? 'plain' : 'keep'}
        options={[
          ['keep', 'stay'],
          ['plain', 'go: é becomes e'],
        ]}
        set={(v) => change({ plain: v === 'plain' })}
      />
      <Count label="at least" value={block.width} least={0} most={40} set={(width) => change({ width })} />
      {block.width > 0 && (
        <Field label="filled with" value={block.pad} most={1} set={(pad) => pad !== '' && change({ pad })} />
      )}
      <Count
        label="at most"
        value={block.longest ?? 0}
        least={0}
        most={120}
        set={(n) => change({ longest: n === 0 ? null : n })}
      />
      <span className="soft">characters; 0 is no limit</span>
    </div>
  );
}
