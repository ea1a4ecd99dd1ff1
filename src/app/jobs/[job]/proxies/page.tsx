import { Proxies } from '../../../../ui/proxies';

export default function Page() {
  return <Proxies />;
}
