'use client';
import Divider from '@mui/material/Divider';
import ListItemText from '@mui/material/ListItemText';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Link from '../platform/Link';
import { useState } from 'react';
import type { JobView } from '../../core/jobs';
import { useJobs } from '../platform/queries';
import { TemplatesDialog } from '../templates';
import styles from './shell.module.css';

/** The job that is open, the templates, and the way to the other jobs. */
export function JobMenu({ job }: { job: JobView }) {
  const [templates, setTemplates] = useState(false);
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  // What is in every job is counted for it: asked for once somebody wants another.
  const others = (useJobs(anchor !== null).data ?? []).filter(
    (j) => j.code !== job.code && j.putAwayAt === null,
  );
  const close = () => setAnchor(null);
  return (
    <>
      <button
        type="button"
        className={styles.job}
        onClick={(e) => setAnchor(e.currentTarget)}
        aria-haspopup="menu"
        aria-expanded={anchor !== null}
        title="Another job"
      >
        <strong>{job.name}</strong>
        <span className={`figures ${styles.code}`}>{job.code}</span>
        <svg width="9" height="6" viewBox="0 0 9 6" aria-hidden="true">
          <path d="M0 0h9L4.5 6z" fill="currentColor" />
        </svg>
      </button>
      <Menu anchorEl={anchor} open={anchor !== null} onClose={close}>
        {others.slice(0, 8).map((j) => (
          <MenuItem
            key={j.code}
            component={Link}
            href={`/jobs/${encodeURIComponent(j.code)}`}
            onClick={close}
          >
            <ListItemText>{j.name}</ListItemText>
            <span className={`figures ${styles.code}`} style={{ marginLeft: 16 }}>
              {j.code}
            </span>
          </MenuItem>
        ))}
        {others.length > 0 && <Divider />}
        <MenuItem
          onClick={() => {
            close();
            setTemplates(true);
          }}
        >
          Templates …
        </MenuItem>
        <MenuItem component={Link} href="/jobs" onClick={close}>
          All jobs
        </MenuItem>
      </Menu>
      {templates && <TemplatesDialog close={() => setTemplates(false)} />}
    </>
  );
}
