import { Choose } from '../../../../ui/choose';

export default function Page() {
  return <Choose />;
}
