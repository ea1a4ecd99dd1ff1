import { CopyScreen } from '../../../ui/copying/CopyScreen';

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <CopyScreen id={(await params).id} />;
}
