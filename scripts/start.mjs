import { prepare } from './setup.mjs';

await prepare({ build: true });
const { ready, serve } = await import('./serve.mjs');
ready(await serve());
