'use client';
import Alert from '@mui/material/Alert';
import Button from '@mui/material/Button';
import TextField from '@mui/material/TextField';
import {
  type Mend,
  type RehearsalView,
  type Tried,
  Verdict,
  VERDICT_WORDS,
  WAY_WORDS,
} from '../../core/handover';
import { formatCount, plural } from '../platform/format';
import { useAddress } from '../platform/job';
import { Empty, ErrorNotice } from '../platform/Notice';
import { Line } from './Line';
import { VerdictMark } from './VerdictMark';
import { useRehearsal, type Wanted } from './useRehearsal';
import styles from './handover.module.css';

const RESULT_WORDS: Record<Tried['result'], string> = {
  connects: 'connects',
  several: 'finds several',
  other: 'another clip',
  apart: 'other frames',
  none: 'finds nothing',
};
const RESULTS = Object.keys(RESULT_WORDS) as Tried['result'][];

/** What is offered for many clips at once: what is so of one, and of several; and the words on the button. */
const MENDS: readonly { mend: Mend; one: string; many: string; label: string }[] = [
  {
    mend: 'look',
    one: 'clip has a proxy of which nothing is known yet',
    many: 'clips have proxies of which nothing is known yet',
    label: 'Look at them',
  },
  {
    mend: 'rewrap',
    one: 'clip’s file lost its timecode, which is known from elsewhere',
    many: 'clips’ files lost their timecode, which is known from elsewhere',
    label: 'Rewrap with timecode',
  },
  {
    mend: 'again',
    one: 'proxy does not lead to its original; if it was made here, it is replaced',
    many: 'proxies do not lead to their originals; those made here are replaced',
    label: 'Make proxies again',
  },
  {
    mend: 'name',
    one: 'clip has a name that another has',
    many: 'clips have names that others have',
    label: 'Name them',
  },
];

/** Whether an edit made with what is there will find its originals, before it is made. */
export function Rehearsal() {
  const address = useAddress();
  const rehearsal = useRehearsal();
  const { view, pages, work, lines, words, setWords, wanted, setWanted } = rehearsal;
  if (!view)
    return pages.error ? (
      <div className={styles.alone}>
        <ErrorNotice error={pages.error} again={() => void pages.refetch()} />
      </div>
    ) : null;
  if (view.clips === 0)
    return (
      <Empty whole title={view.unread > 0 ? 'No clip has been read yet' : 'There are no clips yet'}>
        <Button href={address('/intake')} variant="contained">
          Bring in footage
        </Button>
      </Empty>
    );
  const isAll = wanted.verdict === null && wanted.way === null;
  return (
    <div className={styles.screen}>
      <section className={styles.panel} aria-label="Relink rehearsal">
        <header>
          <h1>Relink rehearsal</h1>
          <p className="soft">
            Will an edit made with these files find the camera originals again? Tried for{' '}
            {plural(view.clips, 'clip')}
            {view.unread > 0 && `; ${plural(view.unread, 'clip is', 'clips are')} not read and left out`}.
          </p>
        </header>
        <Verdicts view={view} wanted={wanted} setWanted={setWanted} />
        <Ways view={view} wanted={wanted} setWanted={setWanted} />
        <Mends view={view} pending={work.isPending} begin={(mend) => work.mutate({ mend, clips: null })} />
        <Outcome work={work} />
      </section>
      <section className={styles.panel} aria-label="Clips of the rehearsal">
        <header className={styles.bar}>
          <h2 aria-live="polite">
            {isAll ? 'All clips' : wordsOf(wanted)}{' '}
            <span className="soft figures">{formatCount(view.found)}</span>
          </h2>
          {!isAll && (
            <Button size="small" onClick={() => setWanted({ verdict: null, way: null })}>
              Show all
            </Button>
          )}
          <TextField
            placeholder="Part of a name"
            value={words}
            onChange={(e) => setWords(e.target.value)}
            slotProps={{ htmlInput: { 'aria-label': 'Find by part of a name' } }}
          />
        </header>
        <div className={styles.lines}>
          <table aria-label="Clips of the rehearsal">
            <thead>
              <tr>
                <th scope="col">Original</th>
                <th scope="col">In the edit</th>
                <th scope="col">How it goes</th>
                <th scope="col">
                  <span className="visuallyHidden">What to do</span>
                </th>
              </tr>
            </thead>
            <tbody>
              {lines.map((line) => (
                <Line
                  key={line.clip}
                  line={line}
                  pending={work.isPending}
                  mend={(mend) => work.mutate({ mend, clips: [line.clip] })}
                />
              ))}
            </tbody>
          </table>
          {lines.length === 0 && <p className={styles.none}>No clip is like that.</p>}
          {pages.hasNextPage && (
            <Button disabled={pages.isFetchingNextPage} onClick={() => void pages.fetchNextPage()}>
              {pages.isFetchingNextPage ? 'Fetching …' : `Show more of ${formatCount(view.found)}`}
            </Button>
          )}
        </div>
      </section>
    </div>
  );
}

const wordsOf = ({ verdict, way }: Wanted): string =>
  verdict !== null
    ? `Clips: ${VERDICT_WORDS[verdict]}`
    : way !== null
      ? `By ${WAY_WORDS[way.way]}: ${RESULT_WORDS[way.result]}`
      : '';

interface Filter {
  view: RehearsalView;
  wanted: Wanted;
  setWanted: (wanted: Wanted) => void;
}

const Verdicts = ({ view, wanted, setWanted }: Filter) => (
  <div className={styles.verdicts} role="group" aria-label="Clips by verdict">
    {Verdict.options.map((v) => (
      <button
        key={v}
        type="button"
        aria-pressed={wanted.verdict === v}
        onClick={() => setWanted({ verdict: wanted.verdict === v ? null : v, way: null })}
      >
        <b className="figures">{formatCount(view.verdicts[v])}</b>
        <span>
          <VerdictMark verdict={v} /> {VERDICT_WORDS[v]}
        </span>
      </button>
    ))}
  </div>
);

/** Which ways work for how many clips, so that the editor can be told which to use. */
function Ways({ view, wanted, setWanted }: Filter) {
  const best = Math.max(...view.ways.map((w) => w.counts.connects));
  return (
    <div className={styles.ways}>
      <h2 id="ways">Which ways work</h2>
      <table aria-labelledby="ways">
        <thead>
          <tr>
            <td />
            {RESULTS.map((r) => (
              <th key={r} scope="col">
                {RESULT_WORDS[r]}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {view.ways.map(({ way, counts }) => (
            <tr key={way} data-best={counts.connects === best && best > 0}>
              <th scope="row">{WAY_WORDS[way]}</th>
              {RESULTS.map((result) => {
                const pressed = wanted.way?.way === way && wanted.way.result === result;
                return (
                  <td key={result}>
                    {counts[result] === 0 ? (
                      <span className="figures soft">0</span>
                    ) : (
                      <button
                        type="button"
                        className="figures"
                        data-result={result}
                        aria-pressed={pressed}
                        aria-label={`By ${WAY_WORDS[way]}, ${RESULT_WORDS[result]}: ${counts[result]}`}
                        onClick={() => setWanted({ verdict: null, way: pressed ? null : { way, result } })}
                      >
                        {formatCount(counts[result])}
                      </button>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="soft">{adviceOf(view)}</p>
    </div>
  );
}

/** Which way to tell the editor to use. */
function adviceOf({ ways, clips }: RehearsalView): string {
  const best = [...ways].sort((a, b) => b.counts.connects - a.counts.connects)[0]!;
  const { connects } = best.counts;
  if (connects === 0) return 'No way works for any clip as things are.';
  return connects === clips
    ? `By ${WAY_WORDS[best.way]} every clip connects: tell the editor to use that.`
    : `By ${WAY_WORDS[best.way]} ${formatCount(connects)} of ${formatCount(clips)} connect, which is the most.`;
}

function Mends({
  view,
  pending,
  begin,
}: {
  view: RehearsalView;
  pending: boolean;
  begin: (mend: Mend) => void;
}) {
  const offered = MENDS.filter(({ mend }) => view.mends[mend] > 0);
  if (offered.length === 0) return null;
  return (
    <ul className={styles.mends} aria-label="What can be mended">
      {offered.map(({ mend, one, many, label }) => (
        <li key={mend}>
          <span>
            <b className="figures">{formatCount(view.mends[mend])}</b> {view.mends[mend] === 1 ? one : many}
          </span>
          <Button size="small" variant="outlined" disabled={pending} onClick={() => begin(mend)}>
            {label}
          </Button>
        </li>
      ))}
    </ul>
  );
}

function Outcome({ work }: { work: ReturnType<typeof useRehearsal>['work'] }) {
  if (work.error) return <ErrorNotice error={work.error} close={work.reset} />;
  if (!work.data) return null;
  const { begun, refused } = work.data;
  return (
    <Alert severity={refused.length > 0 ? 'warning' : 'info'} variant="outlined" onClose={work.reset}>
      {begun > 0
        ? `Begun for ${plural(begun, 'clip')}: what comes of it is shown here as it is done.`
        : refused.length > 0
          ? 'Nothing was begun.'
          : 'Already queued.'}
      {refused.map((r) => (
        <div key={r.name}>{r.why}</div>
      ))}
    </Alert>
  );
}
