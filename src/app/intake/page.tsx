import { Intake } from '../../ui/intake/Intake';

export default function Page() {
  return <Intake />;
}
