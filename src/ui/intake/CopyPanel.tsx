'use client';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import FormControlLabel from '@mui/material/FormControlLabel';
import MenuItem from '@mui/material/MenuItem';
import Radio from '@mui/material/Radio';
import RadioGroup from '@mui/material/RadioGroup';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import {
  cardFolder,
  PATTERN_WORDS,
  patternFault,
  MOST_SAFE,
  NewOffload,
  copySeconds,
  Verification,
  VERIFICATION_WORDS,
} from '../../core/offload';
import { shareDisk, standApart } from '../../core/platform/disks';
import { ChosenHash, HASH_WORDS } from '../../core/hashLists';
import type { JobView } from '../../core/jobs';
import type { LookedCard } from '../../core/intake/shapes';
import type { RootView } from '../../core/places';
import { useAddress, useServer } from '../platform/job';
import { asCameraLabel } from '../../core/platform/cameraLabel';
import { formatBytes, formatDay, formatLeft, plural } from '../platform/format';
import { ErrorNotice } from '../platform/Notice';
import { useJob, useOffloads } from '../platform/queries';
import styles from './intake.module.css';
import { AddPlace } from '../places';
import { NextChoice } from '../watch';
import { NOTHING_NEXT } from '../../core/next';
import { ComingNames } from './ComingNames';
import { notCopied, sumOf } from './ticks';

interface Props {
  job: JobView;
  root: string;
  path: string;
  card: LookedCard;
  ticked: ReadonlySet<string>;
  singles: readonly string[];
}

/** Where the card goes and how it is proven. */
export function CopyPanel({ job, root, path, card, ticked, singles }: Props) {
  const address = useAddress();
  const server = useServer();
  const router = useRouter();
  const queries = useQueryClient();
  const { suggestion: s } = card;
  const safes = job.roots.filter((r) => r.kind === 'safe');
  const shelfRoot = job.roots.find((r) => r.id === 'shelf')!;
  const [camera, setCamera] = useState(s.camera.value);
  const [cardId, setCardId] = useState(s.cardId.value);
  const [day, setDay] = useState(String(s.day.value));
  const [date, setDate] = useState(s.date.value ?? '');
  const [safe, setSafe] = useState<readonly string[]>(() =>
    safes
      .filter((r) => r.present)
      .slice(0, MOST_SAFE)
      .map((r) => r.id),
  );
  const [shelf, setShelf] = useState(true);
  const [wholeCard, setWholeCard] = useState(true);
  const [pattern, setPattern] = useState(job.intake.pattern);
  const [verification, setVerification] = useState(job.intake.verification);
  // Copies of one card are compared by one hash: that of its first copies.
  const settled = ChosenHash.safeParse(card.known?.hash).data;
  const [names, setNames] = useState(false);
  const [adding, setAdding] = useState(false);
  const [hash, setHash] = useState<ChosenHash>(settled ?? job.intake.hash);
  const [next, setNext] = useState(NOTHING_NEXT);
  const [nextReady, setNextReady] = useState(true);
  const past = (useOffloads().data ?? []).find((o) => o.speed !== null && o.verification === verification);
  const sum = sumOf(card.clips, ticked);
  const chosen = safe.filter((id) => safes.some((r) => r.id === id));
  const bytes = chosen.length > 0 && wholeCard ? card.all.bytes : sum.bytes;
  const wanted = NewOffload.safeParse({
    root,
    path,
    folder: card.folder,
    camera,
    cardId,
    day: Number(day),
    date: date === '' ? null : date,
    clips: [...ticked],
    wholeCard,
    safe: chosen,
    shelf: shelf && ticked.size > 0,
    pattern,
    verification,
    hash,
    singles: singles.filter((p) => card.folder === '' || p.startsWith(`${card.folder}/`)),
    next: { keywords: next.keywords, bin: next.bin },
  });
  const fault = (field: string) =>
    wanted.success ? undefined : wanted.error.issues.find((i) => i.path[0] === field)?.message;
  const begin = useMutation({
    mutationFn: () => server.beginOffload(wanted.data!),
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries();
      router.push(address(`/copy/${id}`));
    },
  });
  const going = [
    ...chosen.map((id) => ({ root: safes.find((r) => r.id === id)!, bytes })),
    ...(shelf ? [{ root: shelfRoot, bytes: sum.bytes }] : []),
  ];
  const full = tooMuch(going);
  const shared = sharedDisk(safes.filter((r) => chosen.includes(r.id)));
  const left = notCopied(card, ticked, { safe: chosen.length, shelf, wholeCard });
  const words = {
    job: job.code,
    day: Number(day) || 0,
    date: date === '' ? null : date,
    camera,
    card: cardId,
  };
  // What is in the job already is not named anew.
  const fresh = card.clips.filter((c) => c.here === null && ticked.has(c.path)).map((c) => c.path);
  const nothing =
    chosen.length === 0 && !shelf
      ? 'Choose where it is copied to.'
      : ticked.size === 0 && !(chosen.length > 0 && wholeCard)
        ? 'Tick the clips to take.'
        : null;
  return (
    <>
      <form
        className={styles.panel}
        aria-label="Copy"
        onSubmit={(e) => {
          e.preventDefault();
          if (wanted.success && nothing === null) begin.mutate();
        }}
      >
        <div className={styles.panelBody}>
          <fieldset>
            <legend>What it is</legend>
            <div className={styles.identity}>
              <TextField
                label="Camera"
                value={camera}
                onChange={(e) => setCamera(asCameraLabel(e.target.value))}
                error={fault('camera') !== undefined}
                title={s.camera.because}
              />
              <TextField
                label="Card"
                value={cardId}
                onChange={(e) => setCardId(e.target.value)}
                error={fault('cardId') !== undefined}
                title={s.cardId.because}
                slotProps={{ htmlInput: { className: 'figures' } }}
              />
              <TextField
                label="Day"
                type="number"
                value={day}
                onChange={(e) => setDay(e.target.value)}
                error={fault('day') !== undefined}
                title={s.day.because}
                slotProps={{ htmlInput: { min: 1 } }}
              />
              <TextField
                label="Date"
                type="date"
                value={date}
                onChange={(e) => setDate(e.target.value)}
                sx={{ gridColumn: '1 / 4' }}
                helperText={date ? `${formatDay(date)}: ${s.date.because}` : s.date.because}
                slotProps={{ inputLabel: { shrink: true } }}
              />
            </div>
            {(fault('camera') ?? fault('cardId') ?? fault('day')) && (
              <p role="alert" className={styles.wrong}>
                {fault('camera') ?? fault('cardId') ?? fault('day')}
              </p>
            )}
          </fieldset>
          <fieldset>
            <legend>Where it goes</legend>
            {safes.length === 0 && (
              <p className="soft">
                No place for safe copies yet. A card may be wiped only once it is verified on two of them, on
                different disks.
              </p>
            )}
            {safes.map((r) => (
              <Where
                key={r.id}
                root={r}
                what="Safe copy"
                checked={safe.includes(r.id)}
                set={(on) => setSafe(on ? [...safe, r.id] : safe.filter((id) => id !== r.id))}
              />
            ))}
            {fault('safe') && (
              <p role="alert" className={styles.wrong}>
                {fault('safe')}
              </p>
            )}
            <Button size="small" sx={{ py: 0 }} onClick={() => setAdding(true)}>
              Add a drive …
            </Button>
            <Where
              root={shelfRoot}
              what="Shelf"
              note={`${plural(ticked.size, 'ticked clip')}, named and placed`}
              checked={shelf}
              set={setShelf}
            />
            {shelf && (
              <Button
                size="small"
                sx={{ ml: 2.6, py: 0 }}
                disabled={!wanted.success || fresh.length === 0}
                onClick={() => setNames(true)}
              >
                Their names and places …
              </Button>
            )}
            {chosen.length > 0 && (
              <>
                <RadioGroup
                  row
                  value={wholeCard ? 'all' : 'ticked'}
                  onChange={(e) => setWholeCard(e.target.value === 'all')}
                  aria-label="What the safe copies hold"
                >
                  <FormControlLabel
                    value="all"
                    control={<Radio size="small" sx={{ py: 0.25 }} />}
                    label="whole card"
                  />
                  <FormControlLabel
                    value="ticked"
                    control={<Radio size="small" sx={{ py: 0.25 }} />}
                    label="ticked clips only"
                  />
                </RadioGroup>
                <TextField
                  label="Folder of the safe copy"
                  value={pattern}
                  onChange={(e) => setPattern(e.target.value)}
                  fullWidth
                  error={patternFault(pattern) !== null}
                  slotProps={{ htmlInput: { className: 'figures', style: { fontSize: 12 } } }}
                  helperText={
                    patternFault(pattern) ?? (
                      <span
                        title={Object.entries(PATTERN_WORDS)
                          .map(([w, m]) => `{${w}}: ${m}`)
                          .join('\n')}
                      >
                        {cardFolder(pattern, words)}
                      </span>
                    )
                  }
                  sx={{ mt: 0.75 }}
                />
              </>
            )}
            {shelf && <ProxiesToo />}
            {shared && <p className={styles.warn}>? {shared}</p>}
            {chosen.length > 0 && wholeCard && (
              <p className="soft" style={{ fontSize: 12.5 }}>
                Whole card: {plural(card.all.files, 'file')}, everything{' '}
                {card.all.wholeVolume ? 'on the volume' : 'in the folder'}{' '}
                <span className="figures">{card.all.folder || '/'}</span>
                {card.known ? ', but for what is in verified copies there already' : ''}.
                {card.all.outside.length > 0 &&
                  ` Not with it, on the same volume: ${card.all.outside.slice(0, 4).join(', ')}${card.all.outside.length > 4 ? ' …' : ''}.`}
              </p>
            )}
            {full && (
              <p role="alert" className={styles.wrong}>
                ! {full}
              </p>
            )}
          </fieldset>
          <fieldset>
            <legend>How it is proven</legend>
            <RadioGroup
              value={verification}
              onChange={(e) => setVerification(e.target.value as Verification)}
            >
              {Verification.options.map((v) => (
                <FormControlLabel
                  key={v}
                  value={v}
                  sx={{ alignItems: 'flex-start', mr: 0 }}
                  control={<Radio size="small" sx={{ py: 0.25 }} />}
                  label={
                    <span>
                      <b>{VERIFICATION_WORDS[v].name}</b> · about{' '}
                      {formatLeft(
                        copySeconds(
                          bytes,
                          Math.max(1, going.length),
                          v,
                          v === verification ? (past?.speed ?? null) : null,
                        ),
                      )}
                      {v === verification && (
                        <span className="soft" style={{ display: 'block', fontSize: 12.5 }}>
                          {VERIFICATION_WORDS[v].catches}
                        </span>
                      )}
                    </span>
                  }
                />
              ))}
            </RadioGroup>
            <TextField
              select
              label="Hash"
              value={hash}
              onChange={(e) => setHash(e.target.value as ChosenHash)}
              sx={{ mt: 0.75, minWidth: 170 }}
              disabled={settled !== undefined}
              helperText={settled && `as in the copies of ${card.known!.label}`}
            >
              {ChosenHash.options.map((h) => (
                <MenuItem key={h} value={h}>
                  {HASH_WORDS[h]}
                </MenuItem>
              ))}
            </TextField>
          </fieldset>
          {shelf && (
            <fieldset>
              <legend>What happens next</legend>
              <NextChoice
                marksOnly
                next={next}
                set={(n) => (n ? setNext(n) : undefined, setNextReady(n !== null))}
              />
            </fieldset>
          )}
        </div>
        <div className={styles.panelFoot}>
          {left.length > 0 && (
            <ul aria-label="What will not be copied">
              {left.map((l) => (
                <li key={l}>{l}</li>
              ))}
            </ul>
          )}
          <ErrorNotice error={begin.error} />
          {nothing && <p className="soft">{nothing}</p>}
          <Button
            type="submit"
            variant="contained"
            fullWidth
            disabled={!wanted.success || !nextReady || nothing !== null || full !== null || begin.isPending}
          >
            {begin.isPending
              ? 'Starting …'
              : `Copy ${chosen.length > 0 && wholeCard ? `${plural(card.all.files, 'file')}, ${formatBytes(card.all.bytes)}` : `${plural(sum.clips, 'clip')}, ${formatBytes(sum.bytes)}`}`}
          </Button>
        </div>
      </form>
      {/* Not within the form: what is submitted there would begin the copy. */}
      {adding && (
        <AddPlace
          part="safe"
          done={(id) => {
            setAdding(false);
            if (id !== null) setSafe([...safe, id]);
          }}
        />
      )}
      {wanted.success && (
        <ComingNames open={names} close={() => setNames(false)} coming={{ ...wanted.data, clips: fresh }} />
      )}
    </>
  );
}

/** Whether one broken disk would take two of the copies, in words; null where each is on a disk of its own. */
function sharedDisk(roots: readonly RootView[]): string | null {
  for (const [i, a] of roots.entries()) {
    if (!a.disk) continue;
    if (a.disk.kind === 'memory') return `${a.name} stands in memory: it is no safe copy.`;
    for (const b of roots.slice(i + 1)) {
      if (!b.disk || standApart(a.disk, b.disk, false)) continue;
      if (!shareDisk(a.disk, b.disk) && a.disk.kind === 'network')
        return `${a.name} and ${b.name} are on servers of different addresses, which may be one: they count as two only where the job says so.`;
      const blind = [a, b].find((r) => r.disk!.disks.length === 0);
      return blind
        ? `Which disk ${blind.name} stands on cannot be told: these do not count as two copies.`
        : `${a.name} and ${b.name} stand on one disk: one fault would take both.`;
    }
  }
  return null;
}

/** What the volumes cannot hold, in words; null where all have room. */
function tooMuch(going: readonly { root: RootView; bytes: number }[]): string | null {
  const needs = new Map<string, { names: string[]; bytes: number; free: number }>();
  for (const { root, bytes } of going) {
    const n = needs.get(root.volume ?? root.id) ?? { names: [], bytes: 0, free: root.free ?? 0 };
    needs.set(root.volume ?? root.id, { ...n, names: [...n.names, root.name], bytes: n.bytes + bytes });
  }
  const [over] = [...needs.values()].filter((n) => n.bytes > n.free);
  return over
    ? `${over.names.join(' and ')}: ${formatBytes(over.bytes)} do not fit into ${formatBytes(over.free)}.`
    : null;
}

function Where({
  root,
  what,
  note,
  checked,
  set,
}: {
  root: RootView;
  what: string;
  note?: string;
  checked: boolean;
  set: (on: boolean) => void;
}) {
  return (
    <FormControlLabel
      sx={{ display: 'flex', mr: 0 }}
      disabled={!root.present}
      control={
        <Checkbox
          size="small"
          sx={{ py: 0.25 }}
          checked={checked && root.present}
          onChange={(e) => set(e.target.checked)}
        />
      }
      label={
        <span>
          {what === 'Shelf' ? (
            <b>Shelf</b>
          ) : (
            <>
              <b>{root.name}</b> <span className="soft">{what.toLowerCase()}</span>
            </>
          )}{' '}
          <span className="soft">· {root.present ? `${formatBytes(root.free ?? 0)} free` : 'offline'}</span>
          {note && (
            <span className="soft" style={{ display: 'block', fontSize: 12.5 }}>
              {note}
            </span>
          )}
        </span>
      }
    />
  );
}

/** Whether proxies follow the copy by themselves; a rule of the job. */
function ProxiesToo() {
  const server = useServer();
  const job = useJob();
  const client = useQueryClient();
  const save = useMutation({
    mutationFn: server.saveSettings,
    onSuccess: () => client.invalidateQueries({ queryKey: ['job'] }),
  });
  const rules = job.data?.proxies;
  return (
    <>
      <FormControlLabel
        sx={{ display: 'flex', mr: 0 }}
        disabled={!rules}
        control={
          <Checkbox
            size="small"
            sx={{ py: 0.25 }}
            checked={rules?.byItself === true}
            onChange={(e) => rules && save.mutate({ proxies: { ...rules, byItself: e.target.checked } })}
          />
        }
        label="Proxies of what needs one, once it is verified"
      />
      <ErrorNotice error={save.error} close={() => save.reset()} />
    </>
  );
}
