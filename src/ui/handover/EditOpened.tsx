'use client';
import Button from '@mui/material/Button';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import { useInfiniteQuery, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { keepPreviousData } from '@tanstack/react-query';
import Link from '../platform/Link';
import { useState } from 'react';
import { type EditView, type EventsFound, LAID_WORDS, LaidVerdict, trackWords } from '../../core/handover';
import { formatRate, sameRate, STANDARD_RATES } from '../../core/platform/timecode/rate';
import { formatCount, plural } from '../platform/format';
import { useAddress, useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { LaidMark } from './LaidMark';
import { Strip } from './Strip';
import styles from './handover.module.css';

const PAGE = 100;

interface Wanted {
  verdict: LaidVerdict | null;
  shifted: boolean;
  /** From which event on, of all in their order. */
  from: number;
}
const ALL: Wanted = { verdict: null, shifted: false, from: 0 };

/** One edit: each track as a strip, how many events are found, and every event with its reason. */
export function EditOpened({ id }: { id: string }) {
  const server = useServer();
  const view = useQuery({ queryKey: ['edit', id], queryFn: () => server.edit(id) });
  const [wanted, setWanted] = useState<Wanted>(ALL);
  const events = useInfiniteQuery({
    queryKey: ['editEvents', id, wanted],
    queryFn: ({ pageParam }) =>
      server.editEvents(id, {
        verdict: wanted.verdict,
        shifted: wanted.shifted,
        offset: pageParam,
        limit: PAGE,
      }),
    initialPageParam: wanted.from,
    getNextPageParam: (last, all) => {
      const had = wanted.from + all.reduce((n, p) => n + p.lines.length, 0);
      return last.lines.length > 0 && had < last.found ? had : undefined;
    },
    placeholderData: keepPreviousData,
  });
  if (view.error || events.error)
    return (
      <section className={styles.panel} aria-label="The edit">
        <ErrorNotice error={view.error ?? events.error} again={() => void view.refetch()} />
      </section>
    );
  if (!view.data) return <section className={styles.panel} aria-label="The edit" aria-busy />;
  const e = view.data;
  const isAll = wanted.verdict === null && !wanted.shifted;
  const lines = events.data?.pages.flatMap((p) => p.lines) ?? [];
  return (
    <section className={styles.panel} aria-label={`The edit ${e.name}`}>
      <Head edit={e} />
      <div className={styles.strips}>
        {e.tracks.map((track, i) => (
          <Strip
            key={`${i} ${track.name}`}
            track={track}
            frames={e.frames}
            open={(place) =>
              setWanted({ ...ALL, from: e.tracks.slice(0, i).reduce((n, t) => n + t.events.length, place) })
            }
          />
        ))}
      </div>
      <div className={styles.counts} role="group" aria-label="Events by what became of them">
        {LaidVerdict.options
          .filter((v) => e.counts[v] > 0 || v === 'found')
          .map((v) => (
            <button
              key={v}
              type="button"
              aria-pressed={wanted.verdict === v}
              onClick={() => setWanted(wanted.verdict === v ? ALL : { ...ALL, verdict: v })}
            >
              <LaidMark verdict={v} /> <b className="figures">{formatCount(e.counts[v])}</b> {LAID_WORDS[v]}
            </button>
          ))}
        {!isAll || wanted.from > 0 ? (
          <Button size="small" onClick={() => setWanted(ALL)}>
            Show all
          </Button>
        ) : null}
      </div>
      <CutFrom edit={e} show={() => setWanted({ ...ALL, shifted: true })} />
      <Events
        lines={lines}
        more={events.hasNextPage ? () => void events.fetchNextPage() : null}
        busy={events.isFetchingNextPage}
      />
    </section>
  );
}

function Head({ edit: e }: { edit: EditView }) {
  const server = useServer();
  const queries = useQueryClient();
  const at = useMutation({
    mutationFn: (written: string) =>
      server.setEditRate(e.id, STANDARD_RATES.find((r) => formatRate(r) === written) ?? e.rate),
    onSuccess: () =>
      Promise.all(['edit', 'editEvents'].map((key) => queries.invalidateQueries({ queryKey: [key, e.id] }))),
  });
  const events = e.tracks.reduce((n, t) => n + t.events.length, 0);
  return (
    <header>
      <h1>{e.name}</h1>
      <p className="soft">
        {plural(events, 'event')} from {e.start}
        {e.format === 'otio' ? `, counts at ${formatRate(e.rate)}` : ''}
      </p>
      {e.format === 'edl' && (
        <label className={styles.rate}>
          Counts at{' '}
          <select
            value={formatRate(e.rate)}
            disabled={at.isPending}
            onChange={(c) => at.mutate(c.target.value)}
          >
            {[...STANDARD_RATES, ...(STANDARD_RATES.some((r) => sameRate(r, e.rate)) ? [] : [e.rate])].map(
              (r) => (
                <option key={formatRate(r)}>{formatRate(r)}</option>
              ),
            )}
          </select>{' '}
          frames a second{e.guessed && <b> – guessed: a list does not say it</b>}
        </label>
      )}
      <ErrorNotice error={at.error} close={at.reset} />
      {e.faults.length > 0 && (
        <details className={styles.faults}>
          <summary>{plural(e.faults.length, 'thing')} in the file made no sense</summary>
          <ul>
            {e.faults.map((f) => (
              <li key={f}>{f}</li>
            ))}
          </ul>
        </details>
      )}
    </header>
  );
}

/** What the edit was made with, where that is not the originals’ count; and the timeline that counts in that. */
function CutFrom({ edit: e, show }: { edit: EditView; show: () => void }) {
  const server = useServer();
  if (e.corrected === 0) return null;
  const shifted = e.cutFrom.reduce((n, c) => n + c.events, 0);
  return (
    <div className={styles.cutFrom}>
      <div>
        {shifted > 0 ? (
          <button type="button" onClick={show}>
            {plural(shifted, 'event uses', 'events use')} timecode that is not the original’s:
          </button>
        ) : (
          <span>{plural(e.corrected, 'event names', 'events name')} another file than the original.</span>
        )}
        <ul>
          {e.cutFrom.map((c) => (
            <li key={c.words}>
              {plural(c.events, 'event')} {c.words}
            </li>
          ))}
          {e.moreCutFrom > 0 && <li>and {plural(e.moreCutFrom, 'more file')}</li>}
        </ul>
      </div>
      <span>
        Corrected to the originals:
        <Button size="small" variant="outlined" href={server.correctedUrl(e.id, 'otio')}>
          Save OTIO
        </Button>
        <SaveLists edit={e} />
      </span>
      <Alike edit={e} />
    </div>
  );
}

/** The other way to mend it: files that count as the edit does, for who has to connect it as it is. */
function Alike({ edit: { id, alike } }: { edit: EditView }) {
  const server = useServer();
  const address = useAddress();
  const make = useMutation({ mutationFn: () => server.makeAlike(id) });
  if (alike.files === 0) return null;
  const files = plural(alike.missing, 'file');
  return (
    <span>
      {alike.missing === 0 ? (
        <>
          For the edit as it is: {plural(alike.files, 'file')} with its timecode{' '}
          {alike.files === 1 ? 'is' : 'are'} among the proxies, below “Starts at …”.
        </>
      ) : make.isSuccess ? (
        <span role="status">
          {plural(make.data.begun, 'file')} begun: how far they are is on{' '}
          <Link href={address('/proxies')}>Proxies</Link>.
        </span>
      ) : (
        <>
          Or keep the edit as it is:
          <Button
            size="small"
            variant="outlined"
            disabled={make.isPending}
            title="Rewraps of the originals, with the timecode that the edit uses, named as what it was cut from"
            onClick={() => make.mutate()}
          >
            Make {files} with its timecode
          </Button>
        </>
      )}
      <ErrorNotice error={make.error} close={make.reset} />
    </span>
  );
}

/** A list has one track: of several, one is chosen. */
function SaveLists({ edit: e }: { edit: EditView }) {
  const server = useServer();
  const [at, setAt] = useState<HTMLElement | null>(null);
  if (e.tracks.length === 1)
    return (
      <Button size="small" variant="outlined" href={server.correctedUrl(e.id, 'edl')}>
        Save EDL
      </Button>
    );
  return (
    <>
      <Button
        size="small"
        variant="outlined"
        aria-haspopup="menu"
        aria-expanded={at !== null}
        onClick={(c) => setAt(c.currentTarget)}
      >
        Save EDL …
      </Button>
      <Menu anchorEl={at} open={at !== null} onClose={() => setAt(null)}>
        {e.tracks.map((track, i) => (
          <MenuItem
            key={i}
            dense
            component="a"
            href={server.correctedUrl(e.id, 'edl', i)}
            onClick={() => setAt(null)}
          >
            {trackWords(e.tracks, i)}
            <span className="soft" style={{ marginLeft: 8 }}>
              {track.name} · {plural(track.events.length, 'event')}
            </span>
          </MenuItem>
        ))}
      </Menu>
    </>
  );
}

const BY_WORDS = {
  file: 'by its file',
  name: 'by its name',
  reel: 'by reel and timecode',
  timecode: 'by timecode',
};

function Events({
  lines,
  more,
  busy,
}: {
  lines: readonly EventsFound['lines'][number][];
  more: (() => void) | null;
  busy: boolean;
}) {
  const address = useAddress();
  return (
    <div className={`${styles.lines} ${styles.events}`}>
      <table aria-label="Events">
        <thead>
          <tr>
            <th scope="col">At</th>
            <th scope="col">In the edit</th>
            <th scope="col">Clip</th>
            <th scope="col">What became of it</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((l) => (
            <tr key={`${l.track} ${l.place}`} data-verdict={l.verdict}>
              <td className="figures">
                {l.at}
                <small className="soft">{l.label}</small>
              </td>
              <td className="figures">
                {l.called}
                <small className="soft">{l.numbers}</small>
                {(l.speed !== 1 || l.transition) && <small className="soft">{changesOf(l)}</small>}
              </td>
              <td className="figures">
                {l.of && l.clip !== null && (
                  <>
                    <Link href={address(`/card/${l.of.card}?clip=${l.clip}`)}>{l.of.name}</Link>
                    <small className="soft">{l.of.card}</small>
                  </>
                )}
              </td>
              <td>
                <span className={styles.how}>
                  <LaidMark verdict={l.verdict} />
                  <span>
                    {LAID_WORDS[l.verdict]}
                    {l.by &&
                      l.clip !== null &&
                      `${l.verdict === 'unsure' ? ', its clip' : ''} ${BY_WORDS[l.by]}`}
                    {l.used && (
                      <small className={`figures ${styles.used}`}>
                        frames {l.used.from} to {l.used.to - 1}
                      </small>
                    )}
                    {l.why !== '' && <small>{l.why}</small>}
                  </span>
                </span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {lines.length === 0 && <p className={styles.none}>No event is like that.</p>}
      {more && (
        <Button disabled={busy} onClick={more}>
          {busy ? 'Fetching …' : 'Show more'}
        </Button>
      )}
    </div>
  );
}

/** "backwards at half speed", "dissolve over 12 frames". */
function changesOf({ speed, transition }: EventsFound['lines'][number]): string {
  const words: string[] = [];
  if (speed === 0) words.push('a still frame');
  else if (speed !== 1)
    words.push(`${Math.round(Math.abs(speed) * 100)} % speed${speed < 0 ? ', backwards' : ''}`);
  if (transition) words.push(`${transition.kind} over ${plural(transition.frames, 'frame')}`);
  return words.join(', ');
}
