import { readFileSync } from 'node:fs';
import { joinPath } from './files/names';

/** The product's version, as its package says. The application runs in the package's folder. */
export const version = (
  JSON.parse(readFileSync(joinPath(process.cwd(), 'package.json'), 'utf8')) as { version: string }
).version;
