import type { ReactNode } from 'react';
import { JobProvider } from '../../../ui/platform/job';
import { Shell } from '../../../ui/shell';

/** Everything below works in the job that the address names. */
export default async function Layout({
  children,
  params,
}: {
  children: ReactNode;
  params: Promise<{ job: string }>;
}) {
  const code = decodeURIComponent((await params).job);
  return (
    <JobProvider key={code} code={code}>
      <Shell>{children}</Shell>
    </JobProvider>
  );
}
