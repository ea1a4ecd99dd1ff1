import { notFound, redirect } from 'next/navigation';
import { runtime } from '../../../server/runtime';
import { clipDetail } from '../../../server/overview';

/** A clip's own address: leads to it on its card. */
export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  const { id } = await params;
  const clip = await clipDetail(await runtime(), id).catch(() => null);
  if (!clip) notFound();
  redirect(`/card/${encodeURIComponent(clip.card)}?clip=${clip.id}`);
}
