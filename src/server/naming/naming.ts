import {
  composePlan,
  type Composed,
  fieldsOfRequest,
  nameClips,
  targetFolders,
} from '../../core/naming/compose';
import { Standing } from '../../core/naming/placeIndex';
import type { NamingPreview, NamingRequest } from '../../core/naming';
import { listRoots } from '../places';
import { namesIn } from '../platform/files/onDisk';
import { resolveIn } from '../platform/files/paths';
import { loadNaming } from './load';
import type { InJob, Ports } from './ports';

/** Names on the disk in a folder below a root; none where the folder is not there. */
export async function namesAt(
  runtime: Pick<Ports, 'db'>,
  folders: readonly { root: string; folder: string }[],
): Promise<string[][]> {
  const roots = await listRoots(runtime);
  const out: string[][] = [];
  for (const { root, folder } of folders) {
    const place = roots.find((r) => r.id === root);
    out.push(
      place
        ? await resolveIn(place, folder)
            .then((at) => namesIn(at))
            .catch(() => [])
        : [],
    );
  }
  return out;
}

/** The plan for a naming request. Reads the disk, changes nothing. */
export async function planNaming(
  runtime: InJob,
  request: NamingRequest,
): Promise<Composed & { readonly preview: NamingPreview }> {
  const data = await loadNaming(runtime, fieldsOfRequest(request));
  const named = nameClips(data, request);
  const folders = targetFolders(data, request, named);
  const names = await namesAt(runtime, folders);
  const standing = new Standing();
  folders.forEach((folder, i) => standing.add(folder, names[i]!));
  const composed = composePlan(data, request, named, standing.has);
  return {
    ...composed,
    /** Made when it is asked for: applying needs no rows. */
    get preview(): NamingPreview {
      return { ...composed.summary, rows: composed.rowsOf('all'), fingerprint: composed.fingerprint() };
    },
  };
}
