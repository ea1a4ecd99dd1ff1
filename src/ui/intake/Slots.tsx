'use client';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import type { Faults, StandInAction } from '../../core/offload';
import { library } from '../platform/client';
import { ErrorNotice } from '../platform/Notice';
import { useJob, useStandIns } from '../platform/queries';
import styles from './intake.module.css';

/** What a stand-in can be told to do wrong, each with the words for it. */
const TROUBLE: readonly { words: string; faults: Partial<Faults>; of: 'slot' | 'drive' }[] = [
  { words: 'work normally', faults: {}, of: 'slot' },
  { words: 'be slow (0.5 MB/s)', faults: { slow: 5e5 }, of: 'slot' },
  { words: 'fail once in the third file', faults: { failRead: { file: '0003', times: 1 } }, of: 'slot' },
  { words: 'never give the second file', faults: { failRead: { file: '0002', times: 1000 } }, of: 'slot' },
  { words: 'flip a byte at the first reading', faults: { flip: { file: '0001' } }, of: 'slot' },
  { words: 'work normally', faults: {}, of: 'drive' },
  { words: 'hold 34 MB only', faults: { capacity: 34e6 }, of: 'drive' },
];
const CALM: Faults = { slow: null, failRead: null, flip: null, capacity: null, disk: null, volume: null };
const wordsFor = (of: 'slot' | 'drive', f: Faults): string | null => {
  const known = TROUBLE.find(
    (t) => t.of === of && JSON.stringify({ ...CALM, ...t.faults }) === JSON.stringify(f),
  );
  return known && Object.keys(known.faults).length > 0 ? known.words : null;
};

/** The card reader of the demonstration: slots, the cards in the drawer, and what goes wrong. */
export function Slots({ look }: { look: (root: string, path: string) => void }) {
  const standIns = useStandIns().data;
  const job = useJob().data;
  const queries = useQueryClient();
  const act = useMutation({
    mutationFn: (a: StandInAction) => library.changeStandIn(a),
    onSuccess: () =>
      Promise.all([
        queries.invalidateQueries({ queryKey: ['standIns'] }),
        queries.invalidateQueries({ queryKey: ['folder'] }),
        queries.invalidateQueries({ queryKey: ['look'] }),
      ]),
  });
  if (!standIns || !job) return null;
  return (
    <section className={styles.slots} aria-label="Card reader">
      <h2>
        Card reader <span className="soft">stand-in</span>
      </h2>
      {standIns.slots.map((s) => {
        const root = job.roots.find((r) => r.path.endsWith(`/readers/${s.name}`));
        return (
          <div key={s.name} className={styles.slot} data-full={s.card ? '' : undefined}>
            <span className={styles.slotMark} aria-hidden="true" />
            <div>
              <strong>{s.name}</strong>
              <span className="figures">{s.card ?? 'empty'}</span>
              {wordsFor('slot', s.faults) && (
                <span className={styles.told}>simulates: {wordsFor('slot', s.faults)}</span>
              )}
            </div>
            {s.card && root && (
              <Button size="small" variant="contained" onClick={() => look(root.id, s.card!)}>
                Look
              </Button>
            )}
            {s.card ? (
              <Button size="small" onClick={() => act.mutate({ action: 'pull', slot: s.name })}>
                Pull out
              </Button>
            ) : (
              <Choose
                label="Plug in …"
                options={standIns.drawer.map((c) => ({
                  words: c,
                  choose: () => act.mutate({ action: 'plug', slot: s.name, card: c }),
                }))}
              />
            )}
            <Trouble
              of="slot"
              name={s.name}
              set={(faults) => act.mutate({ action: 'faults', of: s.name, faults })}
            />
          </div>
        );
      })}
      <div className={styles.drives}>
        {standIns.drives.map((d) => (
          <span key={d.name}>
            drive <b>{d.name}</b>
            {wordsFor('drive', d.faults) && (
              <span className={styles.told}> simulates: {wordsFor('drive', d.faults)}</span>
            )}{' '}
            <Trouble
              of="drive"
              name={d.name}
              set={(faults) => act.mutate({ action: 'faults', of: d.name, faults })}
            />
          </span>
        ))}
      </div>
      <ErrorNotice error={act.error} close={act.reset} />
    </section>
  );
}

function Trouble({ of, name, set }: { of: 'slot' | 'drive'; name: string; set: (faults: Faults) => void }) {
  return (
    <Choose
      label="Simulate a fault …"
      name={`Simulate a fault in ${name}`}
      options={TROUBLE.filter((t) => t.of === of).map((t) => ({
        words: t.words,
        choose: () => set({ ...CALM, ...t.faults }),
      }))}
    />
  );
}

function Choose({
  label,
  name,
  options,
}: {
  label: string;
  name?: string;
  options: readonly { words: string; choose: () => void }[];
}) {
  const [at, setAt] = useState<HTMLElement | null>(null);
  return (
    <>
      <Button
        size="small"
        disabled={options.length === 0}
        aria-haspopup="menu"
        {...(name ? { 'aria-label': name } : {})}
        onClick={(e) => setAt(e.currentTarget)}
        sx={{ px: 0.75, fontWeight: name ? 400 : 700, color: name ? 'var(--soft)' : undefined }}
      >
        {label}
      </Button>
      <Menu open={at !== null} anchorEl={at} onClose={() => setAt(null)}>
        {options.map((o) => (
          <MenuItem
            key={o.words}
            dense
            onClick={() => {
              setAt(null);
              o.choose();
            }}
          >
            {o.words}
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}
