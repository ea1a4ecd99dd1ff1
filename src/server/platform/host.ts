import { createHash } from 'node:crypto';
import { hostname } from 'node:os';
import { SYSTEM } from './volumes/mountTable';

/**
 * This computer among others that work with the same database. Of the system's machine id, which is not to be given away as it is
 * (machine-id(5)), a hash; its name where there is none.
 */
export const HOST: string = ((): string => {
  const id = SYSTEM.text('/etc/machine-id')?.trim() ?? '';
  return id === '' ? hostname() : createHash('sha256').update(`sort-shelf ${id}`).digest('hex').slice(0, 16);
})();
