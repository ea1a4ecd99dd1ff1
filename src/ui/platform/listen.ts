/** One name for the lock and the channel of all tabs. */
const LINE = 'sort-shelf-events';

/** Holds the line open until it is no longer wanted, and hands on what comes through it. */
function hold(hear: (event: unknown) => void, unwanted: AbortSignal): Promise<void> {
  return new Promise((resolve) => {
    let source: EventSource;
    let again: ReturnType<typeof setTimeout>;
    let lost = false;
    const open = () => {
      source = new EventSource('/api/platform/events');
      source.onopen = () => {
        // What was asked meanwhile may have failed, or never be answered.
        if (lost) hear({ type: 'opened', quiet: 0 });
        lost = false;
      };
      source.onmessage = (message) => hear(JSON.parse(String(message.data)));
      source.onerror = () => {
        lost = true;
        // The browser tries again by itself unless it was answered with an error, as by a server that is still starting.
        if (source.readyState === EventSource.CLOSED) again = setTimeout(open, 1000);
      };
    };
    open();
    unwanted.addEventListener('abort', () => {
      source.close();
      clearTimeout(again);
      resolve();
    });
  });
}

/**
 * Hears what the server tells. All tabs of a browser share one line, which one of them holds and the next takes over when it is closed:
 * a browser keeps six connections to a server, so that a line for each tab would leave none for what they ask. Returns the way to stop.
 */
export function listen(hear: (event: unknown) => void): () => void {
  const tabs = new BroadcastChannel(LINE);
  tabs.onmessage = (message) => hear(message.data);
  const unwanted = new AbortController();
  const told = (event: unknown) => {
    hear(event);
    tabs.postMessage(event);
  };
  void navigator.locks
    .request(LINE, { signal: unwanted.signal }, () => hold(told, unwanted.signal))
    // Where the browser keeps nothing for its person there are no locks either: each tab has a line of its own.
    .catch(() => (unwanted.signal.aborted ? undefined : hold(hear, unwanted.signal)));
  return () => {
    unwanted.abort();
    tabs.close();
  };
}

/** Milliseconds within which a change is told: the server gathers them for a moment. */
const TOLD_WITHIN = 1000;

/**
 * Whether a change may have been missed by one who heard everything until `heard` (ms, of any clock), and now, at `now` of the same clock,
 * is told that the last change was `quiet` ms ago.
 */
export const mayHaveMissed = (heard: number, now: number, quiet: number): boolean =>
  now - quiet > heard - TOLD_WITHIN;
