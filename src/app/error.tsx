'use client';
import { ScreenFault } from '../ui/platform/ScreenFault';

/** A fault outside a job's screens, which have their own. */
export default function Fault(of: Parameters<typeof ScreenFault>[0]) {
  return (
    <main>
      <ScreenFault {...of} />
    </main>
  );
}
