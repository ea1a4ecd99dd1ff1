import { BlockList, isIP } from 'node:net';
import path from 'node:path';
import type { DiskIdentity } from '../../../core/platform/disks';
import { type Mount, mountOf, NETWORK, SYSTEM, type SystemView } from './mountTable';

const unknown = (name: string): DiskIdentity => ({ kind: 'unknown', disks: [], lasting: false, name });

/**
 * Whether a server is this computer, or something that runs on it: a container or virtual machine behind a bridge that has no
 * way out (no member of it is a device). Its share is on this computer's own disks.
 */
function isHere(address: string, system: SystemView): boolean {
  const family = isIP(address) === 6 ? 'ipv6' : 'ipv4';
  return (
    /^(?:127\.|::1$|0:0:0:0:0:0:0:1$)/.test(address) ||
    system.ownAddresses().some((own) => {
      if (own.address === address) return true;
      const members = system.names(`/sys/class/net/${own.of}/brif`);
      const [base, bits] = own.network?.split('/') ?? [];
      if (members === null || base === undefined || isIP(address) === 0 || isIP(base) !== isIP(address))
        return false;
      if (!members.every((m) => system.real(`/sys/class/net/${m}`)?.startsWith('/sys/devices/virtual/')))
        return false;
      const network = new BlockList();
      network.addSubnet(base, Number(bits), family);
      return network.check(address, family);
    })
  );
}

/**
 * The physical disks under a folder (Linux). Partitions are led back to their disk, device-mapper and RAID volumes to all disks
 * below them, an image file mounted by loop to the disk the file is on, a subvolume by the device it is mounted from, and
 * a network share to its server. What cannot be followed to its end has no disks: it is not taken for any.
 */
export function diskOf(folder: string, system: SystemView = SYSTEM, depth = 0): DiskIdentity {
  const device = system.deviceOf(folder);
  if (device === null) return unknown('the folder is not there');
  const mount = mountOf(system.real(folder) ?? folder, system);
  if (mount && /^(?:tmpfs|ramfs)$/.test(mount.type))
    return { kind: 'memory', disks: [], lasting: false, name: 'the memory of this computer' };
  if (mount && NETWORK.test(mount.type)) {
    const name =
      /^(?:\/\/|\\\\)([^/\\]+)/.exec(mount.source)?.[1] ??
      /^(?:[^@/]+@)?(\[[^\]]+\]|[^:/]+):/.exec(mount.source)?.[1];
    // A server has several names: it is told by the address it is mounted from, and not at all where the mount does not say it.
    const address = /(?:^|,)addr=([^,]+)/.exec(mount.options)?.[1];
    if (!address) return unknown(`a network share of type ${mount.type}, whose server is not told`);
    if (isHere(address, system)) return unknown('a share of this very computer');
    return {
      kind: 'network',
      disks: [`server ${address}`],
      lasting: true,
      name: `the server ${name ?? address}`,
    };
  }
  const block = blockOf(device, mount, system);
  if (block === null)
    return unknown(`a volume of type ${mount?.type ?? 'unknown'} that is not followed to its disk`);
  const found = disksBelow(block, system, depth);
  if (found === null || found.length === 0)
    return unknown(`${path.basename(block)} is not followed to its disk`);
  const disks = [...new Map(found.map((d) => [d.id, d])).values()];
  return {
    kind: 'disk',
    disks: disks.map((d) => d.id).sort(),
    lasting: disks.every((d) => d.lasting),
    name: disks.map((d) => d.name).join(' and '),
  };
}

/** The block device of a file system as a folder of sysfs; file systems without one of their own name it where they are mounted from. */
function blockOf(device: string, mount: Mount | null, system: SystemView): string | null {
  const direct = system.real(`/sys/dev/block/${device}`);
  if (direct) return direct;
  // What a mount says it comes from is followed for the one kind whose devices the kernel lists: of several the mount names only one, and
  // other kinds without a device of their own name what they like.
  if (mount?.type !== 'btrfs' || !mount.source.startsWith('/dev/')) return null;
  const name = path.basename(system.real(mount.source) ?? mount.source);
  const members = (system.names('/sys/fs/btrfs') ?? [])
    .map((id) => system.names(`/sys/fs/btrfs/${id}/devices`) ?? [])
    .find((m) => m.includes(name));
  return members?.length === 1 ? system.real(`/sys/class/block/${name}`) : null;
}

/** Whether every way to an NVMe namespace is this computer's own bus; what is no NVMe has none. With several ways it is below a subsystem, which names its controllers. */
function overPci(block: string, system: SystemView): boolean {
  if (!/^nvme/.test(path.basename(block))) return true;
  const own = system.text(`${block}/device/transport`);
  const ways =
    own !== null
      ? [own]
      : (system.names(`${block}/device`) ?? [])
          .filter((n) => /^nvme\d+$/.test(n))
          .map((n) => system.text(`${block}/device/${n}/transport`));
  return ways.length > 0 && ways.every((w) => w?.trim() === 'pcie');
}

/** Whether this is a virtual machine: by the processor's flags (x86), the device tree, the hypervisor's own folder or what the board calls itself. */
function inVirtualMachine(system: SystemView): boolean {
  return (
    /^flags\s*:.*\bhypervisor\b/m.test(system.text('/proc/cpuinfo') ?? '') ||
    system.names('/proc/device-tree/hypervisor') !== null ||
    (system.text('/sys/hypervisor/type') ?? '').trim() !== '' ||
    ['product_name', 'sys_vendor', 'board_name'].some((f) =>
      /virtual|qemu|kvm/i.test(system.text(`/sys/class/dmi/id/${f}`) ?? ''),
    )
  );
}

/** Whether a SCSI disk is one of several logical units behind one address (H:C:T:L that differ in L alone): parts of one disk, or several, for all that can be seen. */
function oneOfSeveralUnits(block: string, system: SystemView): boolean {
  const target = /^(.*\/target(\d+:\d+:\d+))\//.exec(block);
  return (
    target !== null &&
    (system.names(target[1]!) ?? []).filter((n) => n.startsWith(`${target[2]}:`)).length > 1
  );
}

interface Found {
  id: string;
  name: string;
  lasting: boolean;
}

function disksBelow(block: string, system: SystemView, depth: number): Found[] | null {
  if (depth > 16) return null;
  const image = system.text(`${block}/loop/backing_file`)?.trim();
  if (image) {
    const under = diskOf(path.dirname(image), system, depth + 1);
    return under.kind === 'disk'
      ? under.disks.map((id) => ({ id, name: under.name, lasting: under.lasting }))
      : null;
  }
  const below = system.names(`${block}/slaves`) ?? [];
  if (below.length > 0) {
    const all = below
      .map((n) => system.real(`${block}/slaves/${n}`))
      .map((b) => (b ? disksBelow(b, system, depth + 1) : null));
    return all.includes(null) ? null : all.flatMap((a) => a!);
  }
  if (system.text(`${block}/partition`) !== null) return disksBelow(path.dirname(block), system, depth + 1);
  const name = path.basename(block);
  // Memory and networks that look like disks, and whatever else is made of other devices without naming them.
  if (block.startsWith('/sys/devices/virtual/block/') || /^(?:ram|zram|dm-|md|loop|nbd|rbd|drbd)/.test(name))
    return null;
  // The disk of a virtual machine: several may lie on one disk of its host, which cannot be seen from inside. Only what is plugged in by USB is a disk of its own.
  if (
    /^(?:x?vd|ubd)[a-z]/.test(name) ||
    /\/virtio\d+\//.test(block) ||
    /virtual|qemu/i.test(system.text(`${block}/device/model`) ?? '')
  )
    return null;
  if (inVirtualMachine(system) && !/\/usb\d+\//.test(block)) return null;
  // What a server lends over iSCSI, Fibre Channel or NVMe over fabrics: several may lie on one of its disks.
  if (
    /\/(?:session\d+|rport-[^/]+)\//.test(block) ||
    !overPci(block, system) ||
    oneOfSeveralUnits(block, system)
  )
    return null;
  const first = (...files: string[]) =>
    files
      .map((f) => system.text(`${block}/${f}`)?.trim())
      .find((t) => t !== undefined && t !== '' && !/^0+$/.test(t));
  // Namespaces of one NVMe controller are one disk, though each has an identity of its own.
  const namespace = /^(nvme\d+)n\d+$/.exec(name);
  const own = namespace ? first('device/serial') : first('wwid', 'device/wwid', 'serial', 'device/serial');
  const model = first('device/model');
  return [
    {
      id: own ? `disk ${own}` : `device ${namespace?.[1] ?? name}`,
      name: `the disk ${model ? `${model} (${name})` : name}`,
      lasting: own !== undefined,
    },
  ];
}

/** What tells the file system of a folder from others, by its UUID; `null` where the system does not say. */
export function volumeIdOf(folder: string, system: SystemView = SYSTEM): string | null {
  const mount = mountOf(folder, system);
  const source = mount && system.real(mount.source);
  if (!source) return null;
  const id = (system.names('/dev/disk/by-uuid') ?? []).find(
    (n) => system.real(`/dev/disk/by-uuid/${n}`) === source,
  );
  return id ? `volume ${id}` : null;
}
