import { Wipe } from '../../../../ui/copying/Wipe';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <Wipe card={decodeURIComponent((await params).id)} />;
}
