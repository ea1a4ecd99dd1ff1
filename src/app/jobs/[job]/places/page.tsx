import { Places } from '../../../../ui/places';

export default function Page() {
  return <Places />;
}
