'use client';
import type { ReactNode } from 'react';
import styles from './handover.module.css';

/** A screen of a list with what is open beside it, onto which a file may be dropped. */
export const DropScreen = ({ read, children }: { read: (file: File) => void; children: ReactNode }) => (
  <div
    className={styles.screen}
    data-narrow
    onDragOver={(e) => e.preventDefault()}
    onDrop={(e) => {
      e.preventDefault();
      const [file] = e.dataTransfer.files;
      if (file) read(file);
    }}
  >
    {children}
  </div>
);
