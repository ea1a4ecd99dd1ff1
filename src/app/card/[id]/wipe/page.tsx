import { Wipe } from '../../../../ui/custody/Wipe';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <Wipe card={decodeURIComponent((await params).id)} />;
}
