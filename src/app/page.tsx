import { Wall } from '../ui/wall/Wall';

export default function Page() {
  return <Wall />;
}
