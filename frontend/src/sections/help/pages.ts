import checks from "../../../../docs/checks.md?help";
import physics from "../../../../docs/physics.md?help";
import guide from "../../../../docs/user-guide.md?help";

/** The pages that can be read in the application, by the name they have in its addresses. */
export const PAGES = { "user-guide": guide, physics, checks } as const;
export type PageId = keyof typeof PAGES;

export interface Passage {
  page: PageId;
  id: string;
  title: string;
  of: string;
}

/** Passages that have all of some words in them. */
export function passages(words: string): Passage[] {
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean);
  if (wanted.length === 0) return [];
  return (Object.keys(PAGES) as PageId[]).flatMap((page) =>
    PAGES[page].sections
      .filter(({ title, text }) => wanted.every((w) => `${title} ${text}`.toLowerCase().includes(w)))
      .map(({ id, title }) => ({ page, id, title: title || PAGES[page].title, of: PAGES[page].title })),
  );
}
