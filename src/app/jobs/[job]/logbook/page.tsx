import { Logbook } from '../../../../ui/logbook';

export default function Page() {
  return <Logbook />;
}
