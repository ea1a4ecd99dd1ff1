import { Suspense } from 'react';
import { FactsScreen } from '../../../../ui/facts';

export default function Page() {
  return (
    <Suspense>
      <FactsScreen />
    </Suspense>
  );
}
