import { NamingBench } from '../../ui/naming/NamingBench';

export default function Page() {
  return <NamingBench />;
}
