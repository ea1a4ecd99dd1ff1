import { afterAll, describe, expect, test } from '@jest/globals';
import { execFileSync } from 'node:child_process';
import { mayMount, RealMounts } from '../../testing/realMounts';
import { askVolume } from './answering';
import { SYSTEM, type SystemView } from './mountTable';
import { volumesOn } from './volumes';

/** A made-up computer: its mounts, and sysfs and udev's links as the kernel and systemd document them (from memory). */
const system = (
  mounts: string[],
  {
    links = {},
    texts = {},
    folders = {},
  }: Partial<Record<'links' | 'texts', Record<string, string>>> & {
    folders?: Record<string, string[]>;
  } = {},
): SystemView => ({
  deviceOf: () => null,
  text: (f) => (f === '/proc/self/mountinfo' ? mounts.join('\n') : (texts[f] ?? null)),
  names: (f) => folders[f] ?? null,
  real: (f) => links[f] ?? (f.startsWith('/dev/') ? f : null),
  ownAddresses: () => [],
});
const line = (device: string, at: string, type: string, source: string, options = 'rw'): string =>
  `20 1 ${device} / ${at} ${options} - ${type} ${source} rw`;

describe('volumes footage may be on', () => {
  const USB = '/sys/devices/pci0/usb2/2-1/host4/block/sdb';
  const s = system(
    [
      line('8:1', '/', 'ext4', '/dev/sda1'),
      line('0:20', '/proc', 'proc', 'proc'),
      line('0:21', '/run', 'tmpfs', 'tmpfs'),
      line('0:22', '/dev/shm', 'tmpfs', 'tmpfs'),
      line('8:2', '/boot', 'ext4', '/dev/sda2'),
      line('7:1', '/snap/editor/3', 'squashfs', '/dev/loop1'),
      line('8:17', '/run/media/ana/CARD\\040A', 'exfat', '/dev/sdb1', 'ro,nosuid'),
      line('179:1', '/media/ana/0000-1111', 'vfat', '/dev/mmcblk0p1'),
      line('0:50', '/mnt/store', 'nfs4', '10.0.0.5:/store'),
      line('0:60', '/mnt/memory', 'tmpfs', 'tmpfs'),
    ],
    {
      links: {
        '/sys/dev/block/8:1': '/sys/devices/pci0/ata1/block/sda/sda1',
        '/sys/dev/block/8:17': `${USB}/sdb1`,
        '/sys/dev/block/179:1': '/sys/devices/platform/mmc_host/mmc0/block/mmcblk0/mmcblk0p1',
        '/dev/disk/by-label/CARD\\x20A\\x20\\xc3\\xa9': '/dev/sdb1',
      },
      texts: {
        '/sys/devices/pci0/ata1/block/sda/sda1/partition': '1\n',
        '/sys/devices/pci0/ata1/block/sda/removable': '0\n',
        [`${USB}/sdb1/partition`]: '1\n',
        [`${USB}/removable`]: '0\n',
        '/sys/devices/platform/mmc_host/mmc0/block/mmcblk0/mmcblk0p1/partition': '1\n',
      },
      folders: { '/dev/disk/by-label': ['CARD\\x20A\\x20\\xc3\\xa9'] },
    },
  );

  test('those of the system’s own are left out; what is plugged in is told by its bus, and called by its label', () => {
    expect(volumesOn(s, 'linux').map((v) => [v.at, v.label, v.kind, v.removable, v.readOnly])).toEqual([
      ['/', null, 'system', false, false],
      ['/run/media/ana/CARD A', 'CARD A é', 'disk', true, true],
      ['/media/ana/0000-1111', null, 'disk', true, false],
      ['/mnt/store', null, 'network', null, false],
      ['/mnt/memory', null, 'memory', null, false],
    ]);
  });

  test('of two mounts at one place the last is seen', () => {
    const two = system([
      line('8:17', '/mnt/x', 'ext4', '/dev/sdb1'),
      line('0:50', '/mnt/x', 'nfs4', '10.0.0.5:/x'),
    ]);
    expect(volumesOn(two, 'linux')).toMatchObject([{ at: '/mnt/x', kind: 'network' }]);
  });

  test('other systems, by common practice and not tried: /Volumes, and drive letters', () => {
    const mac = system([], {
      folders: { '/Volumes': ['Macintosh', 'CARD_A', '.hidden'] },
      links: { '/Volumes/Macintosh': '/' },
    });
    expect(volumesOn(mac, 'darwin').map((v) => v.at)).toEqual(['/', '/Volumes/CARD_A']);
    const windows = system([], { folders: { 'C:\\': [], 'E:\\': ['DCIM'] } });
    expect(volumesOn(windows, 'win32').map((v) => [v.at, v.kind])).toEqual([
      ['C:\\', 'system'],
      ['E:\\', 'disk'],
    ]);
  });
});

const real = new RealMounts();
afterAll(() => real.end());

// Against util-linux: findmnt and lsblk are asked in the same moment.
(mayMount ? test : test.skip)('what is mounted and unmounted is listed as findmnt and lsblk list it', () => {
  interface Found {
    target: string;
    fstype: string;
    source: string;
    options: string;
  }
  const findmnt = (): Found[] =>
    (
      JSON.parse(
        execFileSync('findmnt', ['--json', '--list', '--output', 'TARGET,FSTYPE,SOURCE,OPTIONS'], {
          encoding: 'utf8',
        }),
      ) as { filesystems: Found[] }
    ).filesystems;
  const here = () => volumesOn(SYSTEM, 'linux').filter((v) => v.at.startsWith(real.dir));
  const seen = () =>
    findmnt()
      .filter((m) => m.target.startsWith(real.dir))
      .map((m) => [m.target, m.fstype, m.options.split(',').includes('ro')]);
  expect(here()).toEqual([]);
  const memory = real.mount('with space');
  const card = real.mount('card', real.image('card', 'CARD_A'));
  expect(here().map((v) => [v.at, v.type, v.readOnly])).toEqual(seen());
  expect(here().map((v) => v.kind)).toEqual(['memory', 'disk']);
  const block = findmnt().find((m) => m.target === card)!.source;
  const removable = execFileSync('lsblk', ['--noheadings', '--nodeps', '--output', 'RM', block], {
    encoding: 'utf8',
  }).trim();
  expect(here()[1]!.removable).toBe(removable === '1');
  execFileSync('mount', ['-o', 'remount,ro', card]);
  expect(here().map((v) => [v.at, v.type, v.readOnly])).toEqual(seen());
  expect(here()[1]).toMatchObject({ at: card, readOnly: true });
  real.unmount(memory);
  expect(here().map((v) => v.at)).toEqual([card]);
});

test('a volume that does not answer is not asked again until it does', async () => {
  let asked = 0;
  let answer!: (s: string) => void;
  const ask = () => {
    asked++;
    return new Promise<string>((resolve) => {
      answer = resolve;
    });
  };
  expect(await askVolume('/dead', ask, 'late', 20)).toBe('late');
  expect(await askVolume('/dead', ask, 'late', 20)).toBe('late');
  expect(asked).toBe(1);
  // Others are.
  expect(await askVolume('/alive', () => Promise.resolve('there'), 'late')).toBe('there');
  answer('at last');
  await new Promise((r) => setImmediate(r));
  expect(await askVolume('/dead', () => Promise.resolve('there'), 'late')).toBe('there');
});
