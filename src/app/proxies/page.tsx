import { Proxies } from '../../ui/proxies/Proxies';

export default function Page() {
  return <Proxies />;
}
