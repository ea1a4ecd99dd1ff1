import { Wall } from '../../../ui/overview';

export default function Page() {
  return <Wall />;
}
