import { Jobs } from '../../ui/jobs';

export default function Page() {
  return <Jobs />;
}
