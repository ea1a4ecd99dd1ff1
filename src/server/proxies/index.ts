// What other rooms use of this one.
export { actOnWork } from './actOnWork';
export { clearHalfMade, makeOneProxy } from './makeProxies';
export { proxyPlace } from './place';
export { provePairs, provePairsOf } from './provePairs';
export { proxiesView, workSummary } from './views';
