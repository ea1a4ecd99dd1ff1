// What other rooms use of this one.
export { LogEntry, LogKind, LogPage, LogQuery } from './shapes';
