import { readFileSync } from 'node:fs';
import path from 'node:path';

/** The product's version, as its package says. The application runs in the package's folder. */
export const version = (JSON.parse(readFileSync(path.join(process.cwd(), 'package.json'), 'utf8')) as { version: string }).version;
