import { Wall } from '../ui/overview/Wall';

export default function Page() {
  return <Wall />;
}
