import { ChevronDown } from "lucide-react";
import { useLayoutEffect, useRef, useState } from "react";
import { NavLink, useNavigate } from "react-router";
import type { Section } from "../sections";
import { Menu } from "./Menu";
import { useSize } from "./useSize";

const LINK = "inline-flex items-center justify-center rounded-md px-2 py-1.5 font-medium whitespace-nowrap";
const GAP = 2;
/** What the button of the folded ones takes beside its longest name, px. */
const BUTTON = 34;

/** How many of the sections, in their order, stand side by side in a width; the others fold behind one button. */
function fitting(widths: number[], room: number): number {
  const all = widths.reduce((sum, each) => sum + each + GAP, 0);
  if (all <= room || widths.length === 0) return widths.length;
  const left = room - Math.max(...widths) - BUTTON;
  let used = 0;
  return widths.findIndex((each) => (used += each + GAP) > left);
}

/** The sections in the order of work; where they do not all fit, the rest behind a button that names where one is. */
export function SectionNav({ here, sections }: { here: string; sections: Section[] }) {
  const { ref, width } = useSize();
  const go = useNavigate();
  const measure = useRef<HTMLDivElement>(null);
  const [widths, setWidths] = useState<number[]>([]);
  useLayoutEffect(() => {
    const read = () =>
      setWidths([...(measure.current?.children ?? [])].map((each) => (each as HTMLElement).offsetWidth));
    read();
    void document.fonts.ready.then(read);
  }, [sections]);
  const shown = Math.max(0, fitting(widths, width));
  const folded = sections.slice(widths.length ? shown : sections.length);
  const inside = folded.find((section) => section.name === here);
  return (
    <nav
      ref={ref}
      aria-label="Sections"
      className="relative flex min-w-0 flex-1 gap-0.5 max-sm:order-3 max-sm:basis-full"
    >
      <div className="absolute h-0 w-full overflow-hidden">
        <div ref={measure} aria-hidden className="invisible flex w-max" inert>
          {sections.map((section) => (
            <span key={section.id} className={LINK}>
              {section.name}
            </span>
          ))}
        </div>
      </div>
      {sections.slice(0, sections.length - folded.length).map((section) => (
        <NavLink
          key={section.id}
          to={`/${section.id}`}
          className={({ isActive }) =>
            `${LINK} ${isActive ? "bg-ink text-paper" : "text-ink-2 hover:bg-faint"}`
          }
        >
          {section.name}
        </NavLink>
      ))}
      {folded.length > 0 && (
        <Menu
          trigger={
            <button
              type="button"
              aria-label={inside ? `${inside.name}, and more sections` : "More sections"}
              className={`${LINK} flex items-center gap-1 ${inside ? "bg-ink text-paper" : "text-ink-2 hover:bg-faint"}`}
            >
              {inside?.name ?? "More"} <ChevronDown size={15} />
            </button>
          }
          items={folded.map((section) => ({
            label: section.name,
            key: section.id,
            run: () => void go(`/${section.id}`),
          }))}
        />
      )}
    </nav>
  );
}
