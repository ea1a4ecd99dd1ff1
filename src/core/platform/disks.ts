import * as z from 'zod';

/** The physical disks under a folder: what fails as one. */
export const DiskIdentity = z.object({
  /** `memory` is lost when the power goes and never counts as a safe copy; `network` is told apart by its server. */
  kind: z.enum(['disk', 'network', 'memory', 'standIn', 'unknown']),
  /** The disks, each by its own identity; several for a RAID or a volume over several disks. Empty where they cannot be told. */
  disks: z.array(z.string()),
  /** Whether the identities are the disks' own (a serial number), so that they hold when a disk is connected again elsewhere. */
  lasting: z.boolean(),
  /** For people: "a disk of this computer (sda)", or why it cannot be told. */
  name: z.string(),
});
export type DiskIdentity = z.infer<typeof DiskIdentity>;

/** What a copy is on, for a person; `name` of an unknown disk is only why it is not known. */
export const diskWords = ({ kind, name }: DiskIdentity): string =>
  kind === 'unknown' ? `an unknown disk (${name})` : name;

/** Whether two are on one disk that is known. */
export const shareDisk = (a: DiskIdentity, b: DiskIdentity): boolean =>
  a.disks.some((d) => b.disks.includes(d));

/** Whether a copy is on the disk that its card is on: what wipes the one may take the other. `card` is `null` where that is not known. */
export const goesWithCard = (copy: DiskIdentity, card: DiskIdentity | null): boolean =>
  card !== null && shareDisk(copy, card);

/**
 * Whether one broken disk cannot take both. What cannot be told is not taken for apart: one server may have several addresses, so
 * that two shares are apart only where `serversApart`, which a person has to say.
 */
export function standApart(a: DiskIdentity, b: DiskIdentity, serversApart: boolean): boolean {
  if (a.kind === 'memory' || b.kind === 'memory' || a.disks.length === 0 || b.disks.length === 0)
    return false;
  return !shareDisk(a, b) && (serversApart || a.kind !== 'network' || b.kind !== 'network');
}

/** What a volume is on: the disk the system runs from, another disk or card, a server, memory, or a stand-in of the demonstration. */
export const VolumeKind = z.enum(['system', 'disk', 'network', 'memory', 'standIn']);
export type VolumeKind = z.infer<typeof VolumeKind>;
