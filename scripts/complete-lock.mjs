// Completes package-lock.json after `npm install` on a registry that does not serve every platform's binary packages: npm
// then leaves them out of the lock file, and `npm ci` refuses it. Entries are added by name and version; they are
// fetched only on the platform they are for. Run it after changing dependencies.
import { readFileSync, writeFileSync } from 'node:fs';

const file = new URL('../package-lock.json', import.meta.url);
const lock = JSON.parse(readFileSync(file, 'utf8'));
const OS = {
  darwin: 'darwin',
  win32: 'win32',
  linux: 'linux',
  android: 'android',
  freebsd: 'freebsd',
  openbsd: 'openbsd',
  netbsd: 'netbsd',
  sunos: 'sunos',
  aix: 'aix',
  wasm32: 'wasm32',
  openharmony: 'openharmony',
  'vendored.exe': 'win32',
};
const CPU = ['arm64', 'x64', 'ia32', 'ppc64', 's390x', 'riscv64', 'arm', 'loong64', 'mips64el', 'wasm32'];
let added = 0;
for (const [where, entry] of Object.entries(lock.packages)) {
  for (const [name, version] of Object.entries(entry.optionalDependencies ?? {})) {
    const at = `node_modules/${name}`;
    if (!where || lock.packages[at] || lock.packages[`${where}/${at}`] || !/^\d/.test(version)) continue;
    const os = Object.keys(OS).find((o) => name.includes(o));
    const cpu = CPU.find((c) => name.includes(c));
    if (!os) continue;
    lock.packages[at] = {
      version,
      ...(cpu ? { cpu: [cpu] } : {}),
      ...(entry.dev ? { dev: true } : {}),
      optional: true,
      os: [OS[os]],
    };
    added++;
  }
}
// Which C library a package's binary is for stands in its name, not always in its entry: npm would fetch both.
for (const [where, entry] of Object.entries(lock.packages)) {
  const library = /-linux-.*(musl|gnu)/.exec(where)?.[1];
  if (library && entry.optional) entry.libc ??= [library === 'musl' ? 'musl' : 'glibc'];
}
lock.packages = Object.fromEntries(
  Object.entries(lock.packages).sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0)),
);
writeFileSync(file, `${JSON.stringify(lock, null, 2)}\n`);
console.log(`${added} entries added`);
