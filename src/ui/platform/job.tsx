'use client';
import { QueryClientProvider } from '@tanstack/react-query';
import { createContext, type ReactNode, useContext, useState } from 'react';
import { jobServer } from './client';
import { newQueries } from './Providers';

interface InJob {
  server: ReturnType<typeof jobServer>;
  address: (path: string) => string;
}
const JobContext = createContext<InJob | null>(null);

/** Everything below it works in one job, with answers of its own: nothing of another job is ever shown. Give it the code as its key. */
export function JobProvider({ code, children }: { code: string; children: ReactNode }) {
  const [job] = useState((): InJob => ({
    server: jobServer(code),
    address: (path) => `/jobs/${encodeURIComponent(code)}${path === '/' ? '' : path}`,
  }));
  const [queries] = useState(newQueries);
  return (
    <JobContext value={job}>
      <QueryClientProvider client={queries}>{children}</QueryClientProvider>
    </JobContext>
  );
}

function useInJob(): InJob {
  const job = useContext(JobContext);
  if (!job) throw new Error('used outside of a job');
  return job;
}

/** What can be asked of the server in this job. */
export const useServer = (): InJob['server'] => useInJob().server;

/** Turns a path below the job into an address: `/card/B001` into `/jobs/SLW/card/B001`. */
export function useAddress(): (path: string) => string {
  return useInJob().address;
}
