'use client';
import Button from '@mui/material/Button';
import { useMutation, useQuery } from '@tanstack/react-query';
import { useRouter, useSearchParams } from 'next/navigation';
import { useState } from 'react';
import { REPORT_WORDS, ReportKind, type ReportRequest } from '../../core/handover';
import { formatMoment } from '../platform/format';
import { useAddress, useServer } from '../platform/job';
import { ErrorNotice } from '../platform/Notice';
import { useSettled } from '../platform/useSettled';
import { SetField } from './SetField';
import { type ChosenSet, optionOf, SET_WORDS, type SetKind, useSets } from './useSets';
import styles from './handover.module.css';
import fields from './packages/packages.module.css';

/** Reports for people: which one, of which clips; it is shown as it would be printed, and kept as a page or a PDF. */
export function Reports() {
  const at = useSearchParams();
  const router = useRouter();
  const address = useAddress();
  const sets = useSets();
  const kind = ReportKind.catch('camera').parse(at.get('reports'));
  const [query, setQuery] = useState(at.get('search') ?? '');
  const of = at.get('of') ?? 'job';
  const chosen: ChosenSet = {
    kind: of in SET_WORDS ? (of as SetKind) : 'job',
    key: at.get('which') ?? (of === 'job' ? 'job' : ''),
    query,
  };
  const show = (next: Partial<ChosenSet & { report: ReportKind }>) => {
    const now = { ...chosen, report: kind, ...next };
    setQuery(now.query);
    const asked = new URLSearchParams({ reports: now.report });
    if (now.kind !== 'job') asked.set('of', now.kind);
    if (now.kind !== 'job' && now.key !== '') asked.set('which', now.key);
    if (now.kind === 'search' && now.key === '' && now.query !== '') asked.set('search', now.query);
    router.replace(address(`/handover?${asked}`), { scroll: false });
  };
  const option = optionOf(chosen, sets);
  const wanted: ReportRequest | null = option && { kind, set: option.set };
  return (
    <div className={styles.screen} data-narrow>
      <section className={styles.panel} aria-label="Reports">
        <header className={styles.bar}>
          <h1>Reports</h1>
        </header>
        <ul className={styles.reports} aria-label="Kinds of reports">
          {ReportKind.options.map((k) => (
            <li key={k}>
              <button type="button" aria-pressed={k === kind} onClick={() => show({ report: k })}>
                <b>{REPORT_WORDS[k].name}</b>
                <small className="soft">{REPORT_WORDS[k].about}</small>
              </button>
            </li>
          ))}
        </ul>
        <div className={fields.asked}>
          <SetField chosen={chosen} sets={sets} set={show} />
        </div>
      </section>
      {wanted ? (
        <Shown wanted={wanted} />
      ) : (
        <section className={styles.panel} aria-label="The report">
          <p className={styles.none}>Choose which clips it is about: then it is shown here.</p>
        </section>
      )}
    </div>
  );
}

function Shown({ wanted }: { wanted: ReportRequest }) {
  const server = useServer();
  const asked = useSettled(JSON.stringify(wanted), 300);
  const report = useQuery({
    queryKey: ['report', asked],
    queryFn: ({ signal }) => server.reportPage(asked, signal),
    // It says when it was made, and is made anew when that is asked for: an old one shows what was so then.
    staleTime: Infinity,
    gcTime: 60_000,
  });
  const save = useMutation({
    mutationFn: (as: 'html' | 'pdf') => server.saveReport(JSON.stringify(wanted), as),
  });
  const { name } = REPORT_WORDS[wanted.kind];
  const asOf = new Date(report.dataUpdatedAt).toISOString();
  return (
    <section className={styles.panel} aria-label="The report" aria-busy={report.isFetching}>
      <header className={styles.bar}>
        <span className={`soft ${styles.asOf}`} role="status">
          {report.isFetching ? 'Making it …' : report.isSuccess ? `As of ${formatMoment(asOf)}` : ''}
        </span>
        <Button size="small" disabled={report.isFetching} onClick={() => void report.refetch()}>
          Make it anew
        </Button>
        <Button size="small" variant="outlined" disabled={save.isPending} onClick={() => save.mutate('html')}>
          Save as HTML
        </Button>
        <Button size="small" variant="contained" disabled={save.isPending} onClick={() => save.mutate('pdf')}>
          {save.isPending ? 'Making it …' : 'Save as PDF'}
        </Button>
      </header>
      <ErrorNotice error={save.error ?? report.error} close={save.error ? save.reset : undefined} />
      {report.data !== undefined && (
        <iframe className={styles.report} title={name} sandbox="" srcDoc={report.data} />
      )}
    </section>
  );
}
