import { notFound, redirect } from 'next/navigation';
import { runtime } from '../../../../../server/runtime';
import { jobByCode } from '../../../../../server/jobs';
import { clipDetail } from '../../../../../server/overview';

/** A clip's own address: leads to it on its card. */
export default async function Page({ params }: { params: Promise<{ job: string; id: string }> }) {
  const { job: code, id } = await params;
  const all = await runtime();
  const clip = await jobByCode(all, decodeURIComponent(code))
    .then((job) => clipDetail(all.inJob(job.id), id))
    .catch(() => null);
  if (!clip) notFound();
  redirect(`/jobs/${code}/card/${encodeURIComponent(clip.card)}?clip=${clip.id}`);
}
