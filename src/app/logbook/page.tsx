import { Logbook } from '../../ui/logbook/Logbook';

export default function Page() {
  return <Logbook />;
}
