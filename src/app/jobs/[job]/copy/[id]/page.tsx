import { CopyScreen } from '../../../../../ui/offload';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <CopyScreen id={(await params).id} />;
}
