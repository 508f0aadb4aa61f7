const KEY = "low-tide-hookup";

/** The hook-up last worked on, so that Bench, Run sheet and Log speak of the same one. */
export const currentHookup = {
  get: (): string | null => localStorage.getItem(KEY),
  set: (id: string): void => localStorage.setItem(KEY, id),
  clear: (): void => localStorage.removeItem(KEY),
};
