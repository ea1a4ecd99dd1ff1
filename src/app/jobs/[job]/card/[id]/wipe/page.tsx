import { Wipe } from '../../../../../../ui/custody';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <Wipe card={decodeURIComponent((await params).id)} />;
}
