// What other rooms use of this one.
export { LogEntry, LogKind, LogPage, LogQuery, MOST_WORDS } from './shapes';
