'use client';
import Button from '@mui/material/Button';
import Checkbox from '@mui/material/Checkbox';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import FormControlLabel from '@mui/material/FormControlLabel';
import TextField from '@mui/material/TextField';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useId, useState } from 'react';
import { CardShape, FILE_TYPE_WORDS, FileType, IntakeRules, SHAPES } from '../../core/intake';
import { useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { useJob } from '../platform/queries';

const words = (text: string): string[] => text.split(/[\s,;]+/).filter((w) => w !== '');
const lines = (text: string): string[] =>
  text
    .split('\n')
    .map((l) => l.trim())
    .filter((l) => l !== '');

const DEFAULT_SHAPE = {
  id: 'my-shape',
  name: 'my recorder',
  because: 'takes stand in a REC folder',
  marks: ['^rec/[^/]+\\.%video%$'],
  rules: [
    { pattern: '^rec/(?<stem>[^/]+)\\.%video%$', role: 'original' },
    { pattern: '^rec/(?<stem>[^/]+)\\.xml$', role: 'sidecar' },
  ],
  follows: false,
};

interface Props {
  open: boolean;
  close: () => void;
  root: string;
  path: string;
}

/** How cards are recognised: for this folder, and in the whole job. */
export function LookRules(props: Props) {
  const titled = useId();
  const rules = useJob().data?.intake;
  return (
    <Dialog open={props.open} onClose={props.close} maxWidth="md" fullWidth aria-labelledby={titled}>
      <DialogTitle id={titled}>How cards are recognised</DialogTitle>
      {rules && props.open && <Form {...props} rules={rules} />}
    </Dialog>
  );
}

function Form({ close, root, path, rules }: Props & { rules: IntakeRules }) {
  const server = useServer();
  const queries = useQueryClient();
  const key = `${root}/${path}`;
  const here = rules.folders[key] ?? { skipCardFolders: true, off: [] };
  const [skip, setSkip] = useState(here.skipCardFolders);
  const [off, setOff] = useState<readonly string[]>(here.off);
  const [leaveOut, setLeaveOut] = useState(rules.leaveOut.join('\n'));
  const [types, setTypes] = useState(
    () => Object.fromEntries(FileType.options.map((t) => [t, rules.types[t].join(' ')])) as Types,
  );
  const [shapes, setShapes] = useState(rules.shapes);
  const [writing, setWriting] = useState<string | null>(null);
  const next = IntakeRules.safeParse({
    ...rules,
    leaveOut: lines(leaveOut),
    types: Object.fromEntries(FileType.options.map((t) => [t, words(types[t])])),
    shapes,
    folders: { ...rules.folders, [key]: { skipCardFolders: skip, off: [...off] } },
  });
  const save = useMutation({
    mutationFn: () => server.saveSettings({ intake: next.data! }),
    onSuccess: async () => {
      await queries.invalidateQueries({ queryKey: ['job'] });
      close();
    },
  });
  return (
    <>
      <DialogContent
        sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: '10px 28px', alignContent: 'start' }}
      >
        <section>
          <h2>In this folder</h2>
          <FormControlLabel
            control={<Checkbox checked={skip} onChange={(e) => setSkip(e.target.checked)} />}
            label="Look through the folders a camera makes"
          />
          <p className="soft">
            Off, folders are taken as they are, as in footage somebody has sorted already.
          </p>
          <h2 style={{ marginTop: 12 }}>Shapes tried here</h2>
          <Tried {...{ shapes, setShapes, off, setOff }} isOn={skip} />
          <Button
            size="small"
            onClick={() => setWriting(writing === null ? JSON.stringify(DEFAULT_SHAPE, null, 2) : null)}
          >
            {writing === null ? 'Add a shape …' : 'Cancel'}
          </Button>
        </section>
        <WholeJob {...{ leaveOut, setLeaveOut, types, setTypes }} />
        {writing !== null && (
          <NewShape
            text={writing}
            write={setWriting}
            add={(shape) => {
              setShapes([...shapes.filter((s) => s.id !== shape.id), shape]);
              setWriting(null);
            }}
          />
        )}
        <div style={{ gridColumn: '1 / 3' }}>
          {!next.success && (
            <p role="alert" style={{ color: 'var(--brick)' }}>
              {next.error.issues.map((i) => i.message).join('; ')}
            </p>
          )}
          <ErrorNotice error={save.error} />
        </div>
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button variant="contained" disabled={!next.success || save.isPending} onClick={() => save.mutate()}>
          Save and look again
        </Button>
      </DialogActions>
    </>
  );
}

/** The shapes that are tried, one's own first. */
function Tried({
  shapes,
  setShapes,
  off,
  setOff,
  isOn,
}: {
  shapes: IntakeRules['shapes'];
  setShapes: (shapes: IntakeRules['shapes']) => void;
  off: readonly string[];
  setOff: (off: readonly string[]) => void;
  isOn: boolean;
}) {
  return (
    <>
      {[...shapes, ...SHAPES]
        .filter((s) => s.id !== 'plain')
        .map((s) => (
          <div key={s.id} style={{ display: 'flex', alignItems: 'center' }}>
            <FormControlLabel
              sx={{ flex: 1 }}
              disabled={!isOn}
              control={
                <Checkbox
                  size="small"
                  sx={{ py: 0.25 }}
                  checked={!off.includes(s.id)}
                  onChange={(e) => setOff(e.target.checked ? off.filter((o) => o !== s.id) : [...off, s.id])}
                />
              }
              label={<span title={s.because}>{s.name}</span>}
            />
            {shapes.includes(s) && (
              <Button
                size="small"
                color="error"
                onClick={() => setShapes(shapes.filter((o) => o !== s))}
                aria-label={`Remove the shape ${s.name}`}
              >
                Remove
              </Button>
            )}
          </div>
        ))}
    </>
  );
}

type Types = Record<FileType, string>;
function WholeJob({
  leaveOut,
  setLeaveOut,
  types,
  setTypes,
}: {
  leaveOut: string;
  setLeaveOut: (names: string) => void;
  types: Types;
  setTypes: (types: Types) => void;
}) {
  return (
    <section style={{ display: 'grid', gap: 12, alignContent: 'start' }}>
      <h2>In the whole job</h2>
      <TextField
        label="Folders left out, one name a line"
        multiline
        minRows={2}
        value={leaveOut}
        onChange={(e) => setLeaveOut(e.target.value)}
        helperText="Such as a folder of your own proxies"
      />
      {FileType.options.map((t) => (
        <TextField
          key={t}
          label={`${FILE_TYPE_WORDS[t]}: extensions`}
          value={types[t]}
          onChange={(e) => setTypes({ ...types, [t]: e.target.value })}
          slotProps={{ htmlInput: { className: 'figures' } }}
        />
      ))}
    </section>
  );
}

/** A shape that is being written. */
function NewShape({
  text,
  write,
  add,
}: {
  text: string;
  write: (text: string) => void;
  add: (shape: CardShape) => void;
}) {
  const [fault, setFault] = useState<string | null>(null);
  const take = (): void => {
    try {
      const shape = CardShape.parse(JSON.parse(text));
      if (SHAPES.some((s) => s.id === shape.id))
        throw new Error(`“${shape.id}” is the id of a shape that is shipped`);
      add(shape);
    } catch (e) {
      setFault(
        e instanceof Error && 'issues' in e
          ? (e as { issues: { path: PropertyKey[]; message: string }[] }).issues
              .map((i) => `${i.path.join('.')}: ${i.message}`)
              .join('; ')
          : String(e instanceof Error ? e.message : e),
      );
    }
  };
  return (
    <section style={{ gridColumn: '1 / 3', display: 'grid', gap: 8 }}>
      <TextField
        label="A card shape, as JSON"
        multiline
        minRows={8}
        maxRows={14}
        value={text}
        onChange={(e) => write(e.target.value)}
        slotProps={{ htmlInput: { className: 'figures', spellCheck: false, style: { fontSize: 12 } } }}
        error={fault !== null}
        helperText={
          fault ??
          'Patterns are regular expressions over the path below the card. The group “stem” is the clip’s name; roles are original, segment, sidecar, look, thumbnail, cameraProxy.'
        }
      />
      <div>
        <Button variant="outlined" onClick={take}>
          Add this shape
        </Button>
      </div>
    </section>
  );
}
