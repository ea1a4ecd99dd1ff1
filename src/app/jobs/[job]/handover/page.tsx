import { HandOver } from '../../../../ui/handover';

export default function Page() {
  return <HandOver />;
}
