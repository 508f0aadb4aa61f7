/** What was typed as a number, or the text itself so that it can be refused in words; null where nothing was. */
export function typed(text: string): number | string | null {
  const plain = text.trim().replace("−", "-").replace(",", ".");
  if (plain === "") return null;
  const value = Number(plain);
  return Number.isFinite(value) ? value : text;
}

/** The same for a body that asks for a number: what is wrong with it, the server says. */
export const asNumber = (text: string) => typed(text) as number;

/** The same where a number may be left out. */
export const asNumberIfAny = (text: string) => typed(text) as number | null;
