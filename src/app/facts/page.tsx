import { Suspense } from 'react';
import { FactsScreen } from '../../ui/facts/FactsScreen';

export default function Page() {
  return (
    <Suspense>
      <FactsScreen />
    </Suspense>
  );
}
