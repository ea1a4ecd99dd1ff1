/** Milliseconds a volume has to answer. */
const PATIENCE = 2000;

/** What was asked and not answered yet, by the volume. */
const unanswered = new Set<string>();

/**
 * Asks a volume for something: `otherwise` where it does not answer in time, as a share whose server is gone. Until it does, it is not
 * asked again: each asking holds a thread of the process.
 */
export async function askVolume<T>(
  volume: string,
  ask: () => Promise<T>,
  otherwise: T,
  patience = PATIENCE,
): Promise<T> {
  if (unanswered.has(volume)) return otherwise;
  let timer: NodeJS.Timeout | undefined;
  const late = new Promise<'late'>((resolve) => {
    timer = setTimeout(() => resolve('late'), patience);
  });
  const asked = ask();
  const first = await Promise.race([asked.then((answer) => ({ answer })), late]).finally(() =>
    clearTimeout(timer),
  );
  if (first !== 'late') return first.answer;
  unanswered.add(volume);
  void asked.catch(() => undefined).finally(() => unanswered.delete(volume));
  return otherwise;
}
