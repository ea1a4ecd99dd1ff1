'use client';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import MenuItem from '@mui/material/MenuItem';
import TextField from '@mui/material/TextField';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import type { AdoptionView } from '../../core/proxies';
import { formatBytes, plural } from '../platform/format';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { useJob } from '../platform/queries';
import styles from './proxies.module.css';
import { useLeftOut } from './useLeftOut';

const BY = {
  name: 'the same name',
  rule: 'name with words',
  timecode: 'timecode, rate and length',
  pictures: 'its pictures',
} as const;

/** Proxies that are somewhere under a root: looked for, shown with whose they are and by what, and adopted once a person says so. */
export function AdoptDialog({ close }: { close: () => void }) {
  const server = useServer();
  const job = useJob().data;
  const roots = job?.roots.filter((r) => r.present && r.kind !== 'safe') ?? [];
  const [root, setRoot] = useState<string | null>(null);
  const [path, setPath] = useState('');
  const [found, setFound] = useState<{ root: string; view: AdoptionView } | null>(null);
  const { left, turn, forget } = useLeftOut();
  /** Whose a person says a file is, by its path; what is not here is nobody's. */
  const [said, setSaid] = useState<Readonly<Record<string, string>>>({});
  const chosen = root ?? roots.find((r) => r.id === 'proxies')?.id ?? roots[0]?.id ?? '';
  const look = useMutation({
    mutationFn: () => server.lookForProxies({ root: chosen, path: path.trim() }),
    onSuccess: (view) => {
      setFound({ root: chosen, view });
      forget();
      setSaid({});
    },
  });
  const adopt = useMutation({ mutationFn: server.adopt, onSuccess: close });
  const pairs = [
    ...(found?.view.pairs.filter((p) => !left.has(p.file.path)) ?? []).map((p) => ({
      path: p.file.path,
      clip: p.of.clip,
    })),
    ...Object.entries(said).map(([file, clip]) => ({ path: file, clip })),
  ];
  return (
    <Dialog open onClose={close} maxWidth="md" fullWidth>
      <DialogTitle sx={{ pb: 0 }}>Adopt proxies</DialogTitle>
      <DialogContent>
        <p className="soft" style={{ margin: '0 0 12px' }}>
          Proxies that a camera, an upload or another program made. They stay where they are until their
          originals are named.
        </p>
        <Search
          roots={roots}
          root={chosen}
          setRoot={setRoot}
          path={path}
          setPath={setPath}
          looking={look.isPending}
          again={found !== null}
          look={() => look.mutate()}
        />
        <ErrorNotice error={look.error ?? adopt.error} close={() => (look.reset(), adopt.reset())} />
        {found && (
          <>
            <p role="status">{summary(found.view)}</p>
            <Certain view={found.view} left={left} turn={turn} />
            <Open root={found.root} view={found.view} said={said} say={setSaid} />
            <None view={found.view} />
          </>
        )}
      </DialogContent>
      <DialogActions>
        <Button color="inherit" onClick={close}>
          Close
        </Button>
        <Button
          variant="contained"
          disabled={pairs.length === 0 || adopt.isPending}
          onClick={() => adopt.mutate({ root: found!.root, pairs })}
        >
          Adopt {plural(pairs.length, 'proxy', 'proxies')}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** Where proxies are looked for. */
const Search = ({
  roots,
  root,
  setRoot,
  path,
  setPath,
  looking,
  again,
  look,
}: {
  roots: readonly { id: string; name: string }[];
  root: string;
  setRoot: (id: string) => void;
  path: string;
  setPath: (path: string) => void;
  looking: boolean;
  again: boolean;
  look: () => void;
}) => (
  <form
    className={styles.search}
    onSubmit={(e) => {
      e.preventDefault();
      look();
    }}
  >
    <TextField select size="small" label="Look in" value={root} onChange={(e) => setRoot(e.target.value)}>
      {roots.map((r) => (
        <MenuItem key={r.id} value={r.id}>
          {r.name}
        </MenuItem>
      ))}
    </TextField>
    <TextField
      size="small"
      label="Folder"
      placeholder="all of it"
      value={path}
      onChange={(e) => setPath(e.target.value)}
      slotProps={{ inputLabel: { shrink: true } }}
    />
    <Button type="submit" variant={again ? 'outlined' : 'contained'} disabled={looking}>
      {looking ? 'Looking …' : 'Look'}
    </Button>
  </form>
);

function summary({ looked, rules, pairs, open, none }: AdoptionView): string {
  if (looked === 0) return 'There is no video file of no clip.';
  const words = rules
    .filter((r) => r.prefix !== '' || r.suffix !== '')
    .map((r) => `${r.prefix}…${r.suffix}`)
    .join(', ');
  return [
    `${plural(looked, 'file')} looked at: ${pairs.length} certain`,
    ...(open.length > 0 ? [`${open.length} for you to decide`] : []),
    ...(none.length > 0 ? [`${none.length} of no clip`] : []),
    ...(words === '' ? [] : [`names are ${words}`]),
  ].join(', ');
}

const Certain = ({
  view,
  left,
  turn,
}: {
  view: AdoptionView;
  left: ReadonlySet<string>;
  turn: (file: string) => void;
}) =>
  view.pairs.length > 0 && (
    <div className={styles.found}>
      <table aria-label="Certain">
        <tbody>
          {view.pairs.map(({ file, of, by }) => (
            <tr key={file.path}>
              <td>
                <input
                  type="checkbox"
                  checked={!left.has(file.path)}
                  onChange={() => turn(file.path)}
                  aria-label={`Adopt ${file.shown}`}
                />
              </td>
              <td className="figures">{file.shown}</td>
              <td className="figures">
                {of.name} <span className="soft">{of.card}</span>
              </td>
              <td className="soft">by {BY[by]}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );

/** What a person decides: for each file whose it is, or nobody's; for an original one file at most. */
function Open({
  root,
  view,
  said,
  say,
}: {
  root: string;
  view: AdoptionView;
  said: Readonly<Record<string, string>>;
  say: (said: Record<string, string>) => void;
}) {
  const server = useServer();
  if (view.open.length === 0) return null;
  const decide = (file: string, clip: string, others: readonly string[]) => {
    const next = Object.fromEntries(
      Object.entries(said).filter(([f, c]) => f !== file && !(others.includes(f) && c === clip)),
    );
    say(clip === '' ? next : { ...next, [file]: clip });
  };
  return (
    <div className={styles.decide}>
      <h2>For you to decide</h2>
      {view.open.map((o) => (
        <fieldset key={o.files.map((f) => f.path).join()}>
          <legend>{o.because}</legend>
          {o.of.map((c) => (
            <Strip key={c.clip} url={server.filmstripUrl(c.clip)} words={`${c.name} (${c.card})`} />
          ))}
          {o.files.map((f) => (
            <div key={f.path} role="radiogroup" aria-label={f.shown}>
              <Strip url={server.lookedStripUrl(root, f.path)} words={f.shown} />
              <span className="soft">{formatBytes(f.size)}</span>
              {[...o.of.map((c) => [c.clip, `is ${c.name} (${c.card})’s`]), ['', 'nobody’s']].map(
                ([clip, words]) => (
                  <label key={clip}>
                    <input
                      type="radio"
                      name={f.path}
                      checked={(said[f.path] ?? '') === clip}
                      onChange={() =>
                        decide(
                          f.path,
                          clip!,
                          o.files.map((x) => x.path),
                        )
                      }
                    />{' '}
                    {words}
                  </label>
                ),
              )}
            </div>
          ))}
        </fieldset>
      ))}
    </div>
  );
}

/** The pictures of a file, from its first to its last, to be compared with those above and below. */
const Strip = ({ url, words }: { url: string; words: string }) => (
  <div className={styles.strip}>
    <span className="figures">{words}</span>
    <img src={url} alt={`Pictures of ${words}`} loading="lazy" />
  </div>
);

const None = ({ view }: { view: AdoptionView }) =>
  view.none.length > 0 && (
    <details>
      <summary>{plural(view.none.length, 'file')} of no clip</summary>
      <ul className={styles.none}>
        {view.none.map(({ file, because }) => (
          <li key={file.path}>
            <span className="figures">{file.shown}</span> <span className="soft">{because}</span>
          </li>
        ))}
      </ul>
    </details>
  );
