import { readFileSync } from 'node:fs';

// Loaded before a server: its clock is the system's, moved by the milliseconds that the file SHELF_CLOCK holds at that moment.

const System = Date;
const now = () => System.now() + Number(readFileSync(process.env.SHELF_CLOCK, 'utf8'));

globalThis.Date = new Proxy(System, {
  construct: (_, given, as) => Reflect.construct(System, given.length === 0 ? [now()] : given, as),
  apply: () => new System(now()).toString(),
  get: (_, key) => (key === 'now' ? now : Reflect.get(System, key)),
});
