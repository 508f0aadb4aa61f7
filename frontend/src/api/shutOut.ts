/** Where what is held without a network lies. */
export const HELD = "low-tide-held";

const PAIR = "/pair";

/** This device is let in no more: nothing of what it was shown stays on it. */
export function shutOut() {
  if (window.location.pathname === PAIR) return;
  localStorage.clear();
  sessionStorage.clear();
  indexedDB.deleteDatabase(HELD);
  void window.caches?.keys().then((names) => names.forEach((name) => void window.caches.delete(name)));
  window.location.replace(`${PAIR}?out`);
}
