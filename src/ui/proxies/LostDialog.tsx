'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import LinearProgress from '@mui/material/LinearProgress';
import { useMutation } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import type { LostView, TakenFound } from '../../core/proxies';
import { plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import styles from './proxies.module.css';
import { useLeftOut } from './useLeftOut';

type Lost = LostView['none'][number];
type Place = LostView['found'][number]['at'];
const keyOf = (p: Place): string => `${p.root} ${p.path}`;

/** Files of the job that were moved or renamed outside: looked for below all roots by their contents, and used from where they are once a person says so. */
export function LostDialog({ close }: { close: () => void }) {
  const server = useServer();
  const { left, turn } = useLeftOut();
  /** Which place a person chose for a file, by the file. */
  const [said, setSaid] = useState<Readonly<Record<string, Place>>>({});
  const look = useMutation({ mutationFn: server.lookForLost });
  const { mutate: begin } = look;
  const take = useMutation({
    mutationFn: server.takeFound,
    onSuccess: ({ refused }) => {
      if (refused.length === 0) return close();
      setSaid({});
      begin();
    },
  });
  useEffect(() => begin(), [begin]);
  const view = look.data;
  const files = [
    ...(view?.found ?? [])
      .filter((f) => !left.has(f.lost.file))
      .map((f) => ({ file: f.lost.file, root: f.at.root, path: f.at.path })),
    ...Object.entries(said).map(([file, { root, path }]) => ({ file, root, path })),
  ];
  const choose = (file: string, place: Place | null) =>
    setSaid((old) => {
      // One place is that of one file at most.
      const others = Object.entries(old).filter(
        ([f, p]) => f !== file && (place === null || keyOf(p) !== keyOf(place)),
      );
      return Object.fromEntries(place === null ? others : [...others, [file, place]]);
    });
  return (
    <Dialog open onClose={close} maxWidth="md" fullWidth>
      <DialogTitle sx={{ pb: 0 }}>Find lost files</DialogTitle>
      <DialogContent>
        <p className="soft" style={{ margin: '0 0 12px' }}>
          Files of the job that are not where they were. They are looked for below all roots, by their
          contents. Nothing is moved: they are relinked where they are.
        </p>
        <ErrorNotice error={look.error ?? take.error} close={() => (look.reset(), take.reset())} />
        {look.isPending && <LinearProgress aria-label="Looking for lost files" />}
        {take.data && <Refused taken={take.data} />}
        {view && (
          <>
            <p role="status">{summary(view)}</p>
            <Found view={view} left={left} turn={turn} />
            <Open view={view} said={said} choose={choose} />
            <None view={view} />
          </>
        )}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={close}>
          Close
        </Button>
        <Button
          variant="contained"
          disabled={files.length === 0 || take.isPending}
          onClick={() => take.mutate({ files })}
        >
          Relink {plural(files.length, 'file')}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function summary({ looked, found, open, none, offline, inPart }: LostView): string {
  const lost = found.length + open.length + none.length;
  const away =
    (offline.length > 0 ? ` Offline, and not looked at: ${offline.join(', ')}.` : '') +
    (inPart.length > 0 ? ` Too much for one look, and looked at in part: ${inPart.join(', ')}.` : '');
  if (lost === 0) return `No file of the job is lost.${away}`;
  const parts = [
    `${found.length} found`,
    ...(open.length > 0 ? [`${open.length} for you to decide`] : []),
    ...(none.length > 0 ? [`${none.length} not found`] : []),
  ];
  return `${plural(lost, 'file')} lost: ${parts.join(', ')}. ${plural(looked, 'other file')} looked at.${away}`;
}

const Refused = ({ taken: { taken, refused } }: { taken: TakenFound }) => (
  <div role="alert">
    <p>
      {plural(taken, 'file')} relinked; {plural(refused.length, 'file')} left as before:
    </p>
    <ul className={styles.none}>
      {refused.map((r) => (
        <li key={r.file}>
          <span className="figures">{r.file}</span> <span className="soft">{r.why}</span>
        </li>
      ))}
    </ul>
  </div>
);

const Of = ({ lost }: { lost: Lost }) => (
  <>
    <span className="figures">{lost.name}</span> <span className="soft">{`${lost.card}, ${lost.role}`}</span>
  </>
);

const Found = ({
  view,
  left,
  turn,
}: {
  view: LostView;
  left: ReadonlySet<string>;
  turn: (file: string) => void;
}) =>
  view.found.length > 0 && (
    <div className={styles.found}>
      <table aria-label="Found">
        <tbody>
          {view.found.map(({ lost, at, by }) => (
            <tr key={lost.file}>
              <td>
                <input
                  type="checkbox"
                  checked={!left.has(lost.file)}
                  onChange={() => turn(lost.file)}
                  aria-label={`Relink ${at.shown}`}
                />
              </td>
              <td>
                <Of lost={lost} />
              </td>
              <td className="figures">
                <del className="soft">{lost.was}</del>
                <br />
                {at.shown} <span className="soft">in {at.rootName}</span>
              </td>
              <td className="soft">{by === 'contents' ? 'same contents' : 'same size and time'}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );

/** Files that are at several places: which is used, a person says. */
const Open = ({
  view,
  said,
  choose,
}: {
  view: LostView;
  said: Readonly<Record<string, Place>>;
  choose: (file: string, place: Place | null) => void;
}) =>
  view.open.length > 0 && (
    <div className={styles.decide}>
      <h2>For you to decide</h2>
      {view.open.map(({ lost, places }) => (
        <fieldset key={lost.file}>
          <legend>
            <Of lost={lost} />, was {lost.was}
          </legend>
          {[...places, null].map((place) => (
            <label key={place ? keyOf(place) : ''} style={{ display: 'block' }}>
              <input
                type="radio"
                name={lost.file}
                checked={
                  place
                    ? said[lost.file] !== undefined && keyOf(said[lost.file]!) === keyOf(place)
                    : !said[lost.file]
                }
                onChange={() => choose(lost.file, place)}
              />{' '}
              {place ? (
                <>
                  <span className="figures">{place.shown}</span>{' '}
                  <span className="soft">in {place.rootName}</span>
                </>
              ) : (
                'none of them'
              )}
            </label>
          ))}
        </fieldset>
      ))}
    </div>
  );

const None = ({ view }: { view: LostView }) =>
  view.none.length > 0 && (
    <details>
      <summary>{plural(view.none.length, 'file')} not found</summary>
      <ul className={styles.none}>
        {view.none.map((lost) => (
          <li key={lost.file}>
            <Of lost={lost} /> <span className="figures">{lost.was}</span>
          </li>
        ))}
      </ul>
    </details>
  );
