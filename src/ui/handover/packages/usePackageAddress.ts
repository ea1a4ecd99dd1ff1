import { useAddress } from '../../platform/job';

/** The address of a package, or of a new one. */
export function usePackageAddress(): (id: string | null) => string {
  const address = useAddress();
  return (id) => address(`/handover?packages${id === null ? '' : `&package=${encodeURIComponent(id)}`}`);
}
