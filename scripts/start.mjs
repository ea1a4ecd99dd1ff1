import { checkNode, ensureBuild, ensureDependencies, ensureFfmpeg } from './setup.mjs';

checkNode();
ensureDependencies();
ensureFfmpeg();
ensureBuild();
const { ready, serve } = await import('./serve.mjs');
ready(await serve());
