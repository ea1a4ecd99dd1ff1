'use client';
import Button from '@mui/material/Button';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useRouter } from 'next/navigation';
import { useState } from 'react';
import { formatBytes, plural } from '../platform/format';
import { useAddress, useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { AddPlace } from '../places';
import { NextChoice } from '../watch';
import { ComingNames } from './ComingNames';
import { type OfferedCard, useCopyForm } from './copyForm';
import { CopyIdentity } from './CopyIdentity';
import { CopyProof } from './CopyProof';
import { CopyWhere } from './CopyWhere';
import styles from './intake.module.css';

/** Where the card goes and how it is proven. */
export function CopyPanel(offered: OfferedCard) {
  const { card, ticked } = offered;
  const address = useAddress();
  const server = useServer();
  const router = useRouter();
  const queries = useQueryClient();
  const [names, setNames] = useState(false);
  const [adding, setAdding] = useState(false);
  const form = useCopyForm(offered);
  const { asked, put, wanted, sum, isWhole, full, left, nothing } = form;
  const begin = useMutation({
    mutationFn: () => server.beginOffload(wanted.data!),
    onSuccess: async ({ id }) => {
      await queries.invalidateQueries();
      router.push(address(`/copy/${id}`));
    },
  });
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
          <CopyIdentity form={form} card={card} />
          <CopyWhere
            form={form}
            card={card}
            ticked={ticked.size}
            addDrive={() => setAdding(true)}
            showNames={() => setNames(true)}
          />
          <CopyProof form={form} card={card} />
          {asked.shelf && (
            <fieldset>
              <legend>What happens next</legend>
              <NextChoice
                marksOnly
                next={asked.next}
                set={(n) => put(n ? { next: n, nextReady: true } : { nextReady: false })}
              />
            </fieldset>
          )}
        </div>
        <div className={styles.panelFoot}>
          {left.length > 0 && <NotCopied left={left} />}
          <ErrorNotice error={begin.error} />
          {nothing && <p className="soft">{nothing}</p>}
          <Button
            type="submit"
            variant="contained"
            fullWidth
            disabled={
              !wanted.success || !asked.nextReady || nothing !== null || full !== null || begin.isPending
            }
          >
            {begin.isPending
              ? 'Starting …'
              : `Copy ${isWhole ? `${plural(card.all.files, 'file')}, ${formatBytes(card.all.bytes)}` : `${plural(sum.clips, 'clip')}, ${formatBytes(sum.bytes)}`}`}
          </Button>
        </div>
      </form>
      {/* Not within the form: what is submitted there would begin the copy. */}
      {adding && (
        <AddPlace
          part="safe"
          done={(id) => {
            setAdding(false);
            if (id !== null) put({ safe: [...asked.safe, id] });
          }}
        />
      )}
      {wanted.success && (
        <ComingNames
          open={names}
          close={() => setNames(false)}
          coming={{ ...wanted.data, clips: form.fresh }}
        />
      )}
    </>
  );
}

const NotCopied = ({ left }: { left: readonly string[] }) => (
  <ul aria-label="What will not be copied">
    {left.map((l) => (
      <li key={l}>{l}</li>
    ))}
  </ul>
);
