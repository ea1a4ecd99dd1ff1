/** What a storage of the browser does not take, as where its person forbids it or it is full, is kept for as long as the page is open. */
const onPage = new Map<string, string>();

const STORAGES = { browser: () => localStorage, tab: () => sessionStorage };
type Where = keyof typeof STORAGES;

/** What was kept under a name in this browser, or in this tab; null for nothing. */
export function kept(name: string, where: Where = 'browser'): string | null {
  const here = onPage.get(name);
  if (here !== undefined) return here;
  try {
    return STORAGES[where]().getItem(name);
  } catch {
    return null;
  }
}

/** Keeps a text under a name. */
export function keep(name: string, text: string, where: Where = 'browser'): void {
  try {
    STORAGES[where]().setItem(name, text);
    onPage.delete(name);
  } catch {
    onPage.set(name, text);
  }
}
