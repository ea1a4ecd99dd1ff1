// What other rooms use of this one.
export { LogEntry, LogKind } from './shapes';
