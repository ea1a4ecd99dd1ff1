import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, realpathSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import path from 'node:path';

// Volumes that are really mounted, for tests: memory, and an image by loop. They need the right to mount, which not everybody has.

const run = (...[program, ...args]: [string, ...string[]]): string =>
  execFileSync(program, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] });

/** Folders with volumes mounted in them; all is unmounted and removed at the end. */
export class RealMounts {
  readonly dir = realpathSync(mkdtempSync(path.join(tmpdir(), 'shelf-mounts-')));
  readonly #mounted: string[] = [];
  readonly #loops: string[] = [];

  at(...parts: string[]): string {
    return path.join(this.dir, ...parts);
  }

  /** An image of so many megabytes with a file system in it. */
  image(name: string, label: string, megabytes = 8): string {
    const file = this.at(`${name}.img`);
    run('truncate', '-s', `${megabytes}M`, file);
    run('/usr/sbin/mkfs.ext4', '-q', '-L', label, file);
    return file;
  }

  /** Mounts an image, or memory where none is given. Returns the folder. */
  mount(name: string, image?: string): string {
    const at = this.at(name);
    mkdirSync(at, { recursive: true });
    if (image) run('mount', '-o', 'loop', image, at);
    else run('mount', '-t', 'tmpfs', '-o', 'size=8m', 'tmpfs', at);
    this.#mounted.push(at);
    return at;
  }

  /** Mounts an exFAT volume: it has no links, and takes names that differ in case for one. Returns the folder. */
  exfat(name: string): string {
    const [image, at] = [this.at(`${name}.img`), this.at(name)];
    run('truncate', '-s', '32M', image);
    run('/usr/sbin/mkfs.exfat', image);
    mkdirSync(at);
    const device = run('losetup', '--find', '--show', image).trim();
    this.#loops.push(device);
    run('/usr/sbin/mount.exfat-fuse', device, at);
    this.#mounted.push(at);
    return at;
  }

  /** Mounts a folder at another place, too. */
  bind(folder: string, at: string): void {
    run('mount', '--bind', folder, at);
    this.#mounted.push(at);
  }

  /**
   * Unmounts a folder. Another process may just be looking at it: it is given a moment, and then left behind. `pulled` does not wait for who
   * has files open there.
   */
  unmount(at: string, pulled = false): void {
    for (let tries = 1; ; tries++) {
      try {
        run('umount', ...(tries < 20 && !pulled ? [] : ['--lazy']), at);
        break;
      } catch (e) {
        if (tries >= 20) throw e;
        Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, 100);
      }
    }
    this.#mounted.splice(this.#mounted.indexOf(at), 1);
  }

  end(): void {
    for (const at of [...this.#mounted].reverse()) this.unmount(at);
    for (const device of this.#loops) run('losetup', '--detach', device);
    rmSync(this.dir, { recursive: true, force: true });
  }
}

/** Whether this process can mount a volume, tried once. */
const canMount = (mount: (tried: RealMounts) => unknown): boolean => {
  if (process.platform !== 'linux' || process.getuid?.() !== 0) return false;
  const tried = new RealMounts();
  try {
    mount(tried);
    return true;
  } catch {
    return false;
  } finally {
    tried.end();
  }
};

export const mayMount = canMount((tried) => tried.mount('try'));
/** It needs programs of its own, and a system that lets programs drive volumes. */
export const mayMountExfat = (): boolean => canMount((tried) => tried.exfat('try'));
