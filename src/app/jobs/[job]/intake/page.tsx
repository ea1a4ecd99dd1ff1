import { Intake } from '../../../../ui/intake';

export default function Page() {
  return <Intake />;
}
