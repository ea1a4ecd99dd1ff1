/** What long work is given: the sign to stop, and the way to say how far it is. */
export interface TaskContext {
  /** [1] is set to stop. Int32, shared with worker threads. */
  gate: SharedArrayBuffer;
  stopped(): boolean;
  /** `speed` in seconds of footage per second of work. */
  progress: (done: number, total: number, speed?: number | null) => void;
}

/** Sets the sign to stop, and wakes who waits for it. */
export function closeGate(gate: SharedArrayBuffer): void {
  const words = new Int32Array(gate);
  Atomics.store(words, 1, 1);
  Atomics.notify(words, 0);
}

/** What work outside of the queue is given: nobody stops it, and nobody is told. */
export const alone = (): TaskContext => {
  const gate = new SharedArrayBuffer(8);
  return { gate, stopped: () => Atomics.load(new Int32Array(gate), 1) !== 0, progress: () => undefined };
};

/** Throws, with the code STOPPED, where a task is to stop: only where nothing is half done. */
export function endIfStopped(task: Pick<TaskContext, 'stopped'>): void {
  if (task.stopped()) throw Object.assign(new Error('It was stopped.'), { code: 'STOPPED' });
}
