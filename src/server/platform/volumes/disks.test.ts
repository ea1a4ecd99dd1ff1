import { describe, expect, test } from '@jest/globals';
import { standApart } from '../../../core/platform/disks';
import { diskOf, volumeIdOf } from './disks';
import { mountOf, SYSTEM, type SystemView } from './mountTable';

/** A made-up computer: mounts, the device number of each, and sysfs as the kernel documents it (Documentation/ABI, sysfs-block; from memory). */
interface Parts {
  mounts: string[];
  devices: Record<string, string>;
  links?: Record<string, string>;
  texts?: Record<string, string>;
  folders?: Record<string, string[]>;
}
function system(parts: Parts): SystemView {
  const { mounts, devices, links = {}, texts = {}, folders = {} } = parts;
  return {
    deviceOf: (f) =>
      Object.entries(devices)
        .filter(([at]) => f === at || f.startsWith(`${at}/`))
        .sort((a, b) => b[0].length - a[0].length)[0]?.[1] ?? null,
    text: (f) =>
      f === '/proc/self/mountinfo' ? mounts.map((m, i) => `${i + 20} 1 ${m}`).join('\n') : (texts[f] ?? null),
    names: (f) => folders[f] ?? null,
    real: (f) => links[f] ?? (f.startsWith('/dev/') ? f : null),
    ownAddresses: () => [
      { of: 'lan', address: '10.0.0.1', network: '10.0.0.1/24' },
      { of: 'inside', address: '172.30.0.1', network: '172.30.0.1/16' },
      { of: 'bridged', address: '10.9.0.1', network: '10.9.0.1/16' },
    ],
  };
}
const DISK = (name: string) => `/sys/devices/pci/${name}`;
/** Two disks of two partitions each. */
const TWO = {
  links: {
    '/sys/dev/block/8:1': `${DISK('sda')}/sda1`,
    '/sys/dev/block/8:2': `${DISK('sda')}/sda2`,
    '/sys/dev/block/8:17': `${DISK('sdb')}/sdb1`,
    '/sys/class/block/sda1': `${DISK('sda')}/sda1`,
    '/sys/class/block/sda2': `${DISK('sda')}/sda2`,
    '/sys/class/block/sdb1': `${DISK('sdb')}/sdb1`,
  },
  texts: {
    [`${DISK('sda')}/sda1/partition`]: '1',
    [`${DISK('sda')}/sda2/partition`]: '2',
    [`${DISK('sdb')}/sdb1/partition`]: '1',
    [`${DISK('sda')}/device/wwid`]: 'naa.5000a\n',
    [`${DISK('sdb')}/device/wwid`]: 'naa.5000b\n',
    [`${DISK('sda')}/device/model`]: 'Made up 1 \n',
  },
};
const line = (device: string, at: string, type: string, source: string, address = '') =>
  `${device} / ${at} rw - ${type} ${source} rw${address && `,vers=4.2,addr=${address}`}`;

describe('the disk under a folder', () => {
  test('two partitions of one disk are one disk, of two disks two', () => {
    const s = system({
      ...TWO,
      mounts: [
        line('8:1', '/north', 'ext4', '/dev/sda1'),
        line('8:2', '/south', 'exfat', '/dev/sda2'),
        line('8:17', '/east', 'ext4', '/dev/sdb1'),
      ],
      devices: { '/north': '8:1', '/south': '8:2', '/east': '8:17' },
    });
    const [north, south, east] = ['/north/a', '/south/a', '/east/a'].map((f) => diskOf(f, s));
    expect(north).toEqual({
      kind: 'disk',
      disks: ['disk naa.5000a'],
      lasting: true,
      name: 'the disk Made up 1 (sda)',
    });
    expect(standApart(north!, south!, true)).toBe(false);
    expect(standApart(north!, east!, true)).toBe(true);
  });

  test('two subvolumes have device numbers of their own and are one disk; over several disks they are none that is known', () => {
    const mounts = [line('0:41', '/one', 'btrfs', '/dev/sda1'), line('0:42', '/two', 'btrfs', '/dev/sda1')];
    const devices = { '/one': '0:41', '/two': '0:42' };
    const single = system({
      ...TWO,
      mounts,
      devices,
      folders: { '/sys/fs/btrfs': ['uuid'], '/sys/fs/btrfs/uuid/devices': ['sda1'] },
    });
    expect(diskOf('/one', single).disks).toEqual(['disk naa.5000a']);
    expect(standApart(diskOf('/one', single), diskOf('/two', single), true)).toBe(false);
    const both = system({
      ...TWO,
      mounts,
      devices,
      folders: { '/sys/fs/btrfs': ['uuid'], '/sys/fs/btrfs/uuid/devices': ['sda1', 'sdb1'] },
    });
    expect(diskOf('/one', both)).toMatchObject({ kind: 'unknown', disks: [] });
  });

  test('device-mapper and RAID volumes stand on all disks below them: they are not apart from any of those', () => {
    const s = system({
      mounts: [line('9:0', '/raid', 'ext4', '/dev/md0'), line('8:17', '/east', 'ext4', '/dev/sdb1')],
      devices: { '/raid': '9:0', '/east': '8:17' },
      links: {
        ...TWO.links,
        '/sys/dev/block/9:0': '/sys/devices/virtual/block/md0',
        '/sys/devices/virtual/block/md0/slaves/dm-1': '/sys/devices/virtual/block/dm-1',
        '/sys/devices/virtual/block/md0/slaves/sdb1': `${DISK('sdb')}/sdb1`,
        '/sys/devices/virtual/block/dm-1/slaves/sda2': `${DISK('sda')}/sda2`,
      },
      texts: TWO.texts,
      folders: {
        '/sys/devices/virtual/block/md0/slaves': ['dm-1', 'sdb1'],
        '/sys/devices/virtual/block/dm-1/slaves': ['sda2'],
      },
    });
    expect(diskOf('/raid', s).disks).toEqual(['disk naa.5000a', 'disk naa.5000b']);
    expect(standApart(diskOf('/raid', s), diskOf('/east', s), true)).toBe(false);
  });

  test('an image mounted by loop stands on the disk of its file', () => {
    const s = system({
      mounts: [line('8:1', '/home', 'ext4', '/dev/sda1'), line('7:0', '/image', 'ext4', '/dev/loop0')],
      devices: { '/home': '8:1', '/image': '7:0' },
      links: { ...TWO.links, '/sys/dev/block/7:0': '/sys/devices/virtual/block/loop0' },
      texts: { ...TWO.texts, '/sys/devices/virtual/block/loop0/loop/backing_file': '/home/cards/a.img\n' },
    });
    expect(diskOf('/image', s).disks).toEqual(['disk naa.5000a']);
  });

  test('network shares are told apart by server, memory counts for nothing, what is not known is not taken for apart', () => {
    const s = system({
      mounts: [
        line('0:50', '/a', 'nfs4', 'store.local:/one', '10.0.0.5'),
        line('0:51', '/b', 'cifs', '//10.0.0.5/two', '10.0.0.5'),
        line('0:52', '/c', 'nfs', '[fe80::7]:/x', 'fe80::7'),
        line('0:55', '/o', 'nfs4', 'me:/x', '10.0.0.1'),
        line('0:56', '/l', 'nfs4', 'localhost:/x', '127.0.0.1'),
        line('0:57', '/n', 'fuse.sshfs', 'person@store:/x'),
        line('0:53', '/m', 'tmpfs', 'tmpfs'),
        line('0:54', '/f', 'fuse.odd', 'odd'),
        line('253:9', '/v', 'ext4', '/dev/mapper/v'),
      ],
      devices: {
        '/a': '0:50',
        '/b': '0:51',
        '/c': '0:52',
        '/m': '0:53',
        '/f': '0:54',
        '/v': '253:9',
        '/o': '0:55',
        '/l': '0:56',
        '/n': '0:57',
      },
      links: { '/sys/dev/block/253:9': '/sys/devices/virtual/block/dm-9' },
    });
    const of = (f: string) => diskOf(f, s);
    expect(standApart(of('/a'), of('/b'), true)).toBe(false);
    expect(standApart(of('/a'), of('/c'), true)).toBe(true);
    expect(of('/m').kind).toBe('memory');
    // A server under two names is one; this computer's own share is none, nor one whose address is not told.
    for (const f of ['/m', '/f', '/v', '/o', '/l', '/n']) {
      expect(standApart(of(f), of('/a'), true)).toBe(false);
      expect(of(f).disks).toEqual([]);
    }
    expect(of('/nowhere')).toMatchObject({ kind: 'unknown', name: 'the folder is not there' });
  });

  test('a share of a container or virtual machine on this computer is none that is known; one behind a bridge that leads out is', () => {
    const at = { '/inside': '172.30.4.2', '/outside': '10.9.4.2', '/far': '172.31.0.2' };
    const s = system({
      mounts: Object.entries(at).map(([f, address], i) =>
        line(`0:${70 + i}`, f, 'nfs4', `${address}:/x`, address),
      ),
      devices: Object.fromEntries(Object.keys(at).map((f, i) => [f, `0:${70 + i}`])),
      folders: { '/sys/class/net/inside/brif': ['veth1'], '/sys/class/net/bridged/brif': ['veth2', 'port'] },
      links: {
        '/sys/class/net/veth1': '/sys/devices/virtual/net/veth1',
        '/sys/class/net/veth2': '/sys/devices/virtual/net/veth2',
        '/sys/class/net/port': '/sys/devices/pci0000:00/0000:00:1f.6/net/port',
      },
    });
    expect(diskOf('/inside', s)).toMatchObject({
      kind: 'unknown',
      disks: [],
      name: 'a share of this very computer',
    });
    for (const f of ['/outside', '/far']) expect(diskOf(f, s).kind).toBe('network');
  });

  test('namespaces of one controller are one disk; the disks of a virtual machine are none that is known', () => {
    const parts = {
      mounts: [
        line('259:1', '/a', 'ext4', '/dev/nvme0n1'),
        line('259:2', '/b', 'ext4', '/dev/nvme0n2'),
        line('254:0', '/c', 'ext4', '/dev/vda'),
        line('254:16', '/d', 'ext4', '/dev/vdb'),
        line('8:1', '/e', 'ext4', '/dev/sda1'),
      ],
      devices: { '/a': '259:1', '/b': '259:2', '/c': '254:0', '/d': '254:16', '/e': '8:1' },
      links: {
        ...TWO.links,
        '/sys/dev/block/259:1': DISK('nvme0n1'),
        '/sys/dev/block/259:2': DISK('nvme0n2'),
        '/sys/dev/block/254:0': DISK('vda'),
        '/sys/dev/block/254:16': DISK('vdb'),
      },
    };
    const texts = Object.fromEntries(
      ['nvme0n1', 'nvme0n2'].flatMap((n) => [
        [`${DISK(n)}/wwid`, `eui.${n}`],
        [`${DISK(n)}/device/transport`, 'pcie\n'],
      ]),
    );
    const numbered = system({
      ...parts,
      texts: {
        ...texts,
        [`${DISK('nvme0n1')}/device/serial`]: 'S1',
        [`${DISK('nvme0n2')}/device/serial`]: 'S1',
      },
    });
    for (const s of [numbered, system({ ...parts, texts })])
      expect(standApart(diskOf('/a', s), diskOf('/b', s), true)).toBe(false);
    expect(diskOf('/a', numbered).disks).toEqual(['disk S1']);
    for (const f of ['/c', '/d']) expect(diskOf(f, numbered)).toMatchObject({ kind: 'unknown', disks: [] });
    const emulated = system({
      ...parts,
      texts: { [`${DISK('sda')}/sda1/partition`]: '1', [`${DISK('sda')}/device/model`]: 'Virtual disk' },
    });
    expect(diskOf('/e', emulated).disks).toEqual([]);
  });

  test('in a virtual machine only what is plugged in by USB is a disk of its own', () => {
    const usb = '/sys/devices/pci0000:00/0000:00:14.0/usb2/2-1/2-1:1.0/host4/target4:0:0/4:0:0:0/block/sdc';
    const s = system({
      mounts: [line('8:1', '/a', 'ext4', '/dev/sda1'), line('8:32', '/c', 'exfat', '/dev/sdc')],
      devices: { '/a': '8:1', '/c': '8:32' },
      links: { ...TWO.links, '/sys/dev/block/8:32': usb },
      texts: {
        ...TWO.texts,
        [`${usb}/device/wwid`]: 'naa.5000c',
        '/proc/cpuinfo': 'processor\t: 0\nflags\t\t: fpu vme hypervisor lahf_lm\n',
      },
    });
    expect(diskOf('/a', s)).toMatchObject({ kind: 'unknown', disks: [] });
    expect(diskOf('/c', s).disks).toEqual(['disk naa.5000c']);
    const saying = (file: string, text: string) => ({
      ...s,
      text: (f: string) => (f === file ? text : f === '/proc/cpuinfo' ? 'flags\t\t: fpu vme\n' : s.text(f)),
    });
    expect(diskOf('/a', saying('/none', '')).disks).toEqual(['disk naa.5000a']);
    // Other processors have no such flag.
    for (const other of [
      saying('/sys/class/dmi/id/product_name', 'KVM Virtual Machine\n'),
      saying('/sys/hypervisor/type', 'made-up\n'),
      {
        ...saying('/none', ''),
        names: (f: string) => (f === '/proc/device-tree/hypervisor' ? ['compatible'] : s.names(f)),
      },
    ]) {
      expect(diskOf('/a', other).disks).toEqual([]);
      expect(diskOf('/c', other).disks).toEqual(['disk naa.5000c']);
    }
  });

  test('logical units behind one address cannot be told from parts of one disk; what is made of devices it does not name is no disk, nor what a mount merely says', () => {
    const unit = (n: number, name: string) =>
      `/sys/devices/pci0000:00/usb2/2-1/2-1:1.0/host4/target4:0:0/4:0:0:${n}/block/${name}`;
    const parts = (units: string[]) =>
      system({
        mounts: [
          line('8:16', '/b', 'ext4', '/dev/sdb'),
          line('8:32', '/c', 'exfat', '/dev/sdc'),
          line('251:0', '/cached', 'ext4', '/dev/made0'),
          line('0:60', '/many', 'manyfs', '/dev/sda1:/dev/sdb1'),
          line('0:61', '/said', 'fuse.odd', '/dev/sda1'),
        ],
        devices: { '/b': '8:16', '/c': '8:32', '/cached': '251:0', '/many': '0:60', '/said': '0:61' },
        links: {
          ...TWO.links,
          '/sys/dev/block/8:16': unit(0, 'sdb'),
          '/sys/dev/block/8:32': unit(1, 'sdc'),
          '/sys/dev/block/251:0': '/sys/devices/virtual/block/made0',
        },
        texts: {
          ...TWO.texts,
          [`${unit(0, 'sdb')}/device/wwid`]: 'naa.1',
          [`${unit(1, 'sdc')}/device/wwid`]: 'naa.2',
        },
        folders: {
          '/sys/devices/pci0000:00/usb2/2-1/2-1:1.0/host4/target4:0:0': ['power', 'uevent', ...units],
        },
      });
    const two = parts(['4:0:0:0', '4:0:0:1']);
    for (const f of ['/b', '/c', '/cached', '/many', '/said'])
      expect(diskOf(f, two)).toMatchObject({ kind: 'unknown', disks: [] });
    expect(diskOf('/b', parts(['4:0:0:0'])).disks).toEqual(['disk naa.1']);
  });

  test('what a server lends as a disk is none that is known; a controller with a subsystem of its own is', () => {
    const lent = {
      '8:48': '/sys/devices/platform/host5/session3/target5:0:0/5:0:0:1/block/sdd',
      '8:64': '/sys/devices/pci0000:00/0000:00:03.0/host6/rport-6:0-2/target6:0:0/6:0:0:0/block/sde',
      '259:5': '/sys/devices/virtual/nvme-fabrics/ctl/nvme3/nvme3n1',
    };
    const subsystem = '/sys/devices/virtual/nvme-subsystem/nvme-subsys1/nvme1n1';
    const blocks = { ...lent, '259:7': subsystem };
    const s = system({
      mounts: Object.keys(blocks).map((d, i) => line(d, `/m${i}`, 'ext4', '/dev/x')),
      devices: Object.fromEntries(Object.keys(blocks).map((d, i) => [`/m${i}`, d])),
      links: Object.fromEntries(Object.entries(blocks).map(([d, b]) => [`/sys/dev/block/${d}`, b])),
      folders: { [`${subsystem}/device`]: ['nvme1', 'nvme1n1', 'serial'] },
      texts: {
        ...Object.fromEntries(Object.values(blocks).map((b) => [`${b}/wwid`, `naa.${b.length}`])),
        [`${lent['259:5']}/device/transport`]: 'tcp\n',
        [`${subsystem}/device/nvme1/transport`]: 'pcie\n',
        [`${subsystem}/device/serial`]: 'S7',
      },
    });
    for (const m of ['/m0', '/m1', '/m2']) expect(diskOf(m, s)).toMatchObject({ kind: 'unknown', disks: [] });
    expect(diskOf('/m3', s).disks).toEqual(['disk S7']);
  });

  test('a disk without a number of its own is told by its device name, which does not last', () => {
    const s = system({
      mounts: [line('8:17', '/east', 'ext4', '/dev/sdb1')],
      devices: { '/east': '8:17' },
      links: TWO.links,
      texts: { [`${DISK('sdb')}/sdb1/partition`]: '1', [`${DISK('sdb')}/device/serial`]: '0000' },
    });
    expect(diskOf('/east', s)).toMatchObject({ disks: ['device sdb'], lasting: false });
  });
});

test('the mount of a path is the deepest that holds it; names with spaces are read', () => {
  const s = system({
    mounts: [line('8:1', '/', 'ext4', '/dev/sda1'), line('8:17', '/media/My\\040Card', 'vfat', '/dev/sdb1')],
    devices: {},
  });
  expect(mountOf('/media/My Card/DCIM', s)?.source).toBe('/dev/sdb1');
  expect(mountOf('/media/My Card 2', s)?.at).toBe('/');
});

test('a volume is known by its UUID where the system says it', () => {
  const s = {
    ...system({
      mounts: [line('8:17', '/east', 'vfat', '/dev/sdb1')],
      devices: {},
      folders: { '/dev/disk/by-uuid': ['AAAA-0001', '1234-ABCD'] },
    }),
    real: (f: string) => (f.endsWith('1234-ABCD') ? '/dev/sdb1' : f),
  };
  expect(volumeIdOf('/east/x', s)).toBe('volume 1234-ABCD');
  expect(volumeIdOf('/east/x', { ...s, names: () => null })).toBeNull();
});

test('on this computer every folder has an answer, and memory is told from disks', () => {
  expect(diskOf(process.cwd()).name.length).toBeGreaterThan(0);
  if (mountOf('/dev/shm')?.type === 'tmpfs') expect(diskOf('/dev/shm').kind).toBe('memory');
  expect(SYSTEM.deviceOf('/definitely/not/there')).toBeNull();
});
