import { expect, test } from '@jest/globals';
import { isSystemFolder } from './places';

test.each([
  '/',
  '/etc',
  '/etc/ssl',
  '/proc/self',
  '/dev',
  '/dev/shm',
  '/usr/share',
  '/home',
  '/media',
  '/run/media',
  '/mnt',
  '/var/lib/x',
  '/tmp',
  '/Volumes',
  '/System/Library',
])('%s is a folder of the system', (path) => expect(isSystemFolder(path)).toBe(true));
test.each([
  '/home/sven',
  '/media/CARD',
  '/run/media/sven/CARD',
  '/mnt/drive',
  '/tmp/x',
  '/dev/shm/x',
  '/etcetera',
  '/usrs',
  '/srv/footage',
  '/Volumes/CARD',
  '/var/tmp/x',
])('%s is none', (path) => expect(isSystemFolder(path)).toBe(false));
