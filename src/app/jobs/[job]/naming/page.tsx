import { NamingBench } from '../../../../ui/naming';

export default function Page() {
  return <NamingBench />;
}
