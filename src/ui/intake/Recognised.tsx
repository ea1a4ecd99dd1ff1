'use client';
import Accordion from '@mui/material/Accordion';
import AccordionDetails from '@mui/material/AccordionDetails';
import AccordionSummary from '@mui/material/AccordionSummary';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import TextField from '@mui/material/TextField';
import { useState } from 'react';
import { ROLE_WORDS } from '../../core/intake/shape';
import { CardChoice, type LookedCard, type Looked } from '../../core/intake/shapes';
import type { NextSteps } from '../../core/next';
import { asCameraLabel } from '../../core/platform/cameraLabel';
import { formatBytes, formatDay, plural } from '../platform/format';
import { Empty, ErrorNotice } from '../platform/Notice';
import { Tag } from '../platform/Tag';
import { NextChoice } from '../watch';
import styles from './intake.module.css';
import { Warnings } from './Warnings';

interface Draft {
  take: boolean;
  camera: string;
  cardId: string;
  day: string;
  date: string;
}

const draftOf = (c: LookedCard): Draft => ({
  take: c.already.length === 0,
  camera: c.suggestion.camera.value,
  cardId: c.suggestion.cardId.value,
  day: String(c.suggestion.day.value),
  date: c.suggestion.date.value ?? '',
});

const choiceOf = (folder: string, d: Draft) =>
  CardChoice.safeParse({
    folder,
    camera: d.camera,
    cardId: d.cardId,
    day: Number(d.day),
    date: d.date === '' ? null : d.date,
  });

interface Props {
  looked: Looked;
  /** What happened next with the card before. */
  before: NextSteps;
  take: (cards: CardChoice[], next: NextSteps) => void;
  taking: boolean;
  error: unknown;
}

/** What was recognised, card by card, each with a suggested place to confirm. */
export function Recognised({ looked, before, take, taking, error }: Props) {
  const [next, setNext] = useState(before);
  const [nextReady, setNextReady] = useState(true);
  const [drafts, setDrafts] = useState(() => new Map(looked.cards.map((c) => [c.folder, draftOf(c)])));
  if (looked.cards.length === 0) {
    return (
      <Empty title="No footage was recognised here">
        <p className="soft">
          {looked.aside.length > 0
            ? `${plural(looked.aside.length, 'file')} ${looked.aside.length === 1 ? 'is' : 'are'} in it, none of which can be a clip:`
            : 'The folder is empty.'}
        </p>
        <Aside files={looked.aside} />
      </Empty>
    );
  }
  const set = (folder: string, change: Partial<Draft>) =>
    setDrafts((old) => new Map(old).set(folder, { ...old.get(folder)!, ...change }));
  const ticked = looked.cards.filter((c) => drafts.get(c.folder)!.take);
  const ids = ticked.map((c) => drafts.get(c.folder)!.cardId);
  const twice = ids.find((id, i) => ids.indexOf(id) !== i);
  const parsed = ticked.map((c) => choiceOf(c.folder, drafts.get(c.folder)!));
  const clips = ticked.reduce((n, c) => n + c.clips.length, 0);
  const ready = ticked.length > 0 && twice === undefined && nextReady && parsed.every((p) => p.success);
  return (
    <>
      <div className={styles.cards}>
        {looked.cards.map((c) => (
          <Card
            key={c.folder}
            card={c}
            draft={drafts.get(c.folder)!}
            set={(d) => set(c.folder, d)}
            twice={twice}
          />
        ))}
        {looked.aside.length > 0 && (
          <div style={{ padding: '4px 12px' }}>
            <strong>Outside every card</strong>
            <Aside files={looked.aside} />
          </div>
        )}
      </div>
      <div className={styles.confirm}>
        <ErrorNotice error={error} />
        <NextChoice
          next={next}
          set={(n) => {
            setNextReady(n !== null);
            if (n) setNext(n);
          }}
        />
        <div style={{ display: 'flex', alignItems: 'center', gap: 16 }}>
          <span className="soft" style={{ flex: 1 }}>
            {ticked.length === 0
              ? 'Tick a card to take it in.'
              : next.placing === 'leave'
                ? 'The files stay where they are. Naming comes later and can be undone.'
                : 'They are placed once they are read; that can be undone in the logbook.'}
          </span>
          <Button
            variant="contained"
            disabled={!ready || taking}
            onClick={() =>
              take(
                parsed.flatMap((p) => (p.success ? [p.data] : [])),
                next,
              )
            }
          >
            {taking ? 'Taking in …' : `Take in ${plural(ticked.length, 'card')}, ${plural(clips, 'clip')}`}
          </Button>
        </div>
      </div>
    </>
  );
}

interface Drafted {
  card: LookedCard;
  draft: Draft;
  set: (d: Partial<Draft>) => void;
  /** An id that two cards have. */
  twice: string | undefined;
}

/** Where a card belongs, each with what it was told by. */
function Fields({ card, draft, set, twice }: Drafted) {
  const { suggestion: s } = card;
  const parsed = choiceOf(card.folder, draft);
  const fault = (field: keyof CardChoice) =>
    parsed.success ? undefined : parsed.error.issues.find((i) => i.path[0] === field)?.message;
  return (
    <div className={styles.fields}>
      <TextField
        label="Camera"
        value={draft.camera}
        onChange={(e) => set({ camera: asCameraLabel(e.target.value) })}
        error={fault('camera') !== undefined}
        helperText={fault('camera') ?? s.camera.because}
      />
      <TextField
        label="Card"
        value={draft.cardId}
        onChange={(e) => set({ cardId: e.target.value })}
        error={fault('cardId') !== undefined || twice === draft.cardId}
        helperText={twice === draft.cardId ? 'two cards have this id' : (fault('cardId') ?? s.cardId.because)}
        slotProps={{ htmlInput: { className: 'figures' } }}
      />
      <TextField
        label="Day"
        type="number"
        value={draft.day}
        onChange={(e) => set({ day: e.target.value })}
        error={fault('day') !== undefined}
        helperText={fault('day') ?? s.day.because}
        slotProps={{ htmlInput: { min: 1 } }}
      />
      <TextField
        label="Date"
        type="date"
        value={draft.date}
        onChange={(e) => set({ date: e.target.value })}
        helperText={draft.date ? formatDay(draft.date) : s.date.because}
        slotProps={{ inputLabel: { shrink: true } }}
      />
    </div>
  );
}

/** A card's clips with their files, and what was left aside. */
function Files({ card }: { card: LookedCard }) {
  return (
    <Accordion
      disableGutters
      elevation={0}
      square
      sx={{ bgcolor: 'transparent', '&:before': { display: 'none' } }}
      slotProps={{ transition: { unmountOnExit: true, timeout: 0 }, heading: { component: 'h2' } }}
    >
      <AccordionSummary
        expandIcon={<span aria-hidden="true">▾</span>}
        sx={{ minHeight: 0, px: 1, font: 'inherit', '& .MuiAccordionSummary-content': { my: 0.5 } }}
      >
        <span>
          Clips and files
          {card.aside.length > 0 && (
            <>
              {' '}
              · <b>{plural(card.aside.length, 'note')}</b>
            </>
          )}
        </span>
      </AccordionSummary>
      <AccordionDetails sx={{ maxHeight: 260, overflow: 'auto', p: 1 }}>
        {card.aside.length > 0 && <Aside files={card.aside} />}
        <table className={styles.files}>
          <tbody>
            {card.clips.map((c) => (
              <tr key={c.files[0]!.path}>
                <th className="figures">{c.stem}</th>
                <td>{c.files.map((f) => ROLE_WORDS[f.role]).join(', ')}</td>
                <td className="figures">{formatBytes(c.bytes)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </AccordionDetails>
    </Accordion>
  );
}

function Card({ card, draft, set, twice }: Drafted) {
  const bytes = card.clips.reduce((n, c) => n + c.bytes, 0);
  const count = (role: string) =>
    card.clips.reduce((n, c) => n + c.files.filter((f) => f.role === role).length, 0);
  const parts = (
    [
      ['segment', 'further segment', 'further segments'],
      ['sound', 'separate sound file', 'separate sound files'],
      ['motion', 'short film of a still', 'short films of stills'],
      ['sidecar', 'sidecar', 'sidecars'],
      ['look', 'look', 'looks'],
      ['thumbnail', 'thumbnail', 'thumbnails'],
      ['cameraProxy', 'camera-made proxy', 'camera-made proxies'],
    ] as const
  ).flatMap(([role, one, many]) => (count(role) > 0 ? [plural(count(role), one, many)] : []));
  const known = card.already.length > 0;
  return (
    <article className={styles.card} data-out={draft.take ? undefined : ''}>
      <header>
        <Checkbox
          checked={draft.take}
          disabled={known}
          onChange={(e) => set({ take: e.target.checked })}
          slotProps={{ input: { 'aria-label': `Take in ${card.folder || 'this folder'}` } }}
          sx={{ p: 0.5 }}
        />
        <div style={{ minWidth: 0, flex: 1 }}>
          <strong className="figures" style={{ fontSize: 15 }}>
            {card.folder || 'this folder'}
          </strong>
          <div className="soft">
            Looks like {card.shape.name}: {card.shape.because}
          </div>
        </div>
        {known ? (
          <Tag tone="plain">already taken in as {card.already.join(', ')}</Tag>
        ) : (
          <span>
            <strong>{plural(card.clips.length, 'clip')}</strong> · {formatBytes(bytes)}
          </span>
        )}
      </header>
      {!known && draft.take && <Fields {...{ card, draft, set, twice }} />}
      <div className={styles.marks}>
        {parts.length > 0 && <span className="soft">with {parts.join(', ')}</span>}
        {card.proxySuffix !== null && (
          <span className="soft">
            proxies carry <b className="figures">{card.proxySuffix || 'no suffix'}</b>
          </span>
        )}
        {card.model && <span className="soft">recorded by {card.model}</span>}
        <Warnings card={card} />
      </div>
      <Files card={card} />
    </article>
  );
}

function Aside({ files }: { files: readonly { path: string; size: number; reason: string }[] }) {
  return (
    <table className={styles.files} aria-label="Left aside or marked">
      <tbody>
        {files.map((a) => (
          <tr key={a.path}>
            <th className="figures">{a.path}</th>
            <td>{a.reason}</td>
            <td className="figures">{formatBytes(a.size)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
