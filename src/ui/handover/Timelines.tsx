'use client';
import Button from '@mui/material/Button';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import Link from '../platform/Link';
import { useRouter } from 'next/navigation';
import type { EditName } from '../../core/handover';
import { formatRunningTime } from '../../core/platform/timecode/timecode';
import { formatMoment, plural } from '../platform/format';
import { useAddress, useServer } from '../platform/job';
import { Empty, ErrorNotice } from '../platform/Notice';
import { EditOpened } from './EditOpened';
import { ReadButton, textOf } from '../platform/ReadButton';
import { DropScreen } from './DropScreen';
import styles from './handover.module.css';

/** Bytes of a timeline that is sent; larger ones are refused before they are read. */
const LARGEST = 9_500_000;

/** The address of an edit, or of none. */
function useEditAddress(): (id: string | null) => string {
  const address = useAddress();
  return (id) => address(`/handover?timelines${id === null ? '' : `&edit=${encodeURIComponent(id)}`}`);
}

/** String-outs as they go out, and edits that came back, one of them open. */
export function Timelines({ edit }: { edit: string | null }) {
  const server = useServer();
  const at = useEditAddress();
  const router = useRouter();
  const queries = useQueryClient();
  const asked = () => queries.invalidateQueries({ queryKey: ['edits'] });
  const read = useMutation({
    // One after the other: the one that was given last is the one that is open in the end.
    scope: { id: 'read an edit' },
    mutationFn: async (file: File) => {
      const { text } = await textOf(file, 'export the edit in parts, reel by reel', LARGEST);
      return server.takeEdit({ file: file.name, text });
    },
    onSuccess: async ({ id }) => {
      await asked();
      router.push(at(id));
    },
  });
  const drop = useMutation({ mutationFn: server.dropEdit, onSuccess: asked });
  return (
    <DropScreen read={read.mutate}>
      <div className={styles.lists}>
        <Returned
          open={edit}
          reading={read.isPending}
          read={read.mutate}
          drop={(id) => {
            // It is closed at once: another that is opened before the answer comes stays open.
            if (id === edit) router.replace(at(null));
            drop.mutate(id);
          }}
          error={read.error ?? drop.error}
          close={() => (read.reset(), drop.reset())}
        />
        <GoingOut />
      </div>
      {edit === null ? (
        <section className={styles.panel} aria-label="No edit is open">
          <Empty title="No edit is open">
            Open one at the left to see which of its events are found, and which are not.
          </Empty>
        </section>
      ) : (
        <EditOpened key={edit} id={edit} />
      )}
    </DropScreen>
  );
}

interface Edits {
  open: string | null;
  reading: boolean;
  read: (file: File) => void;
  drop: (id: string) => void;
  error: Error | null;
  close: () => void;
}

function Returned({ open, reading, read, drop, error, close }: Edits) {
  const server = useServer();
  const edits = useQuery({ queryKey: ['edits'], queryFn: server.edits });
  return (
    <section className={styles.panel} aria-label="Edits that came back">
      <header className={styles.bar}>
        <h2>Edits that came back</h2>
        <ReadButton
          busy={reading}
          label="A timeline: OpenTimelineIO or an edit decision list"
          accept=".otio,.edl,.json,.txt"
          read={read}
        />
      </header>
      <ErrorNotice error={error ?? edits.error} close={close} />
      {edits.data?.length === 0 && (
        <p className={styles.none}>
          None yet. Read the editor’s timeline, as OpenTimelineIO (.otio) or as an edit decision list (.edl),
          or drop it here: every event is looked for among the clips of the job.
        </p>
      )}
      <ul className={styles.names}>
        {edits.data?.map((e) => (
          <EditLine key={e.id} edit={e} open={e.id === open} drop={drop} />
        ))}
      </ul>
    </section>
  );
}

function EditLine({ edit: e, open, drop }: { edit: EditName; open: boolean; drop: (id: string) => void }) {
  const at = useEditAddress();
  return (
    <li data-open={open}>
      <Link href={at(e.id)} aria-current={open ? 'true' : undefined}>
        <b>{e.name}</b>
        <small className="soft">
          {e.file} · {formatMoment(e.readAt)}
        </small>
      </Link>
      <button
        type="button"
        aria-label={`Remove the edit ${e.name}; its file stays`}
        title="Remove it here; its file stays"
        onClick={() => drop(e.id)}
      >
        ×
      </button>
    </li>
  );
}

function GoingOut() {
  const server = useServer();
  const address = useAddress();
  const chosen = useQuery({ queryKey: ['choose', 'view'], queryFn: server.choose });
  const lists = chosen.data?.stringOuts.filter((l) => l.items > 0) ?? [];
  const save = (id: string, name: string, as: 'otio' | 'edl') => (
    <Button
      size="small"
      href={server.stringOutUrl(id, as)}
      aria-label={`Save ${name} as ${as.toUpperCase()}`}
    >
      {as.toUpperCase()}
    </Button>
  );
  return (
    <section className={styles.panel} aria-label="String-outs to hand over">
      <header>
        <h2>String-outs to hand over</h2>
      </header>
      {chosen.data && lists.length === 0 && (
        <p className={styles.none}>
          There is none. Make one of selects under <Link href={address('/choose')}>Choose</Link>; here it is
          saved as a timeline.
        </p>
      )}
      <ul className={styles.names}>
        {lists.map((l) => (
          <li key={l.id}>
            <span>
              <b>{l.name}</b>
              <small className="soft">
                {plural(l.items, 'part')} · {formatRunningTime(l.seconds)}
              </small>
            </span>
            {save(l.id, l.name, 'otio')}
            {save(l.id, l.name, 'edl')}
          </li>
        ))}
      </ul>
    </section>
  );
}
