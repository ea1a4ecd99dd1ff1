const ID = /[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}/g;
/** Milliseconds that they are written later. */
const LATER = 1.8e6;

/**
 * What records say, written half an hour later, with what `ids` makes of each id in them: those of a stranger where it makes another of each,
 * those of a database that goes on where it makes another of the library's only. Returns the text and its file's name.
 */
export function laterRecords(text: string, ids: (id: string) => string): { name: string; text: string } {
  const later = text
    .replace(ID, ids)
    .replace(/"upTo":\d+,"at":"([^"]+)"/g, (mark, at: string) =>
      mark.replace(at, new Date(Date.parse(at) + LATER).toISOString()),
    );
  const { library } = JSON.parse(later.slice(0, later.indexOf('\n'))) as { library: string };
  return { name: `records-${library}.jsonl`, text: later };
}
