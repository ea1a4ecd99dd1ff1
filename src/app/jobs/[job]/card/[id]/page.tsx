import { CardScreen } from '../../../../../ui/cards';

export default async function Page({
  params,
  searchParams,
}: {
  params: Promise<{ id: string }>;
  searchParams: Promise<{ only?: string; clip?: string }>;
}) {
  const { only, clip } = await searchParams;
  return (
    <CardScreen
      id={decodeURIComponent((await params).id)}
      problemsOnly={only === 'problems'}
      clip={clip ?? null}
    />
  );
}
