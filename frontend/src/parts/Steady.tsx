import { useEffect, useRef, type ReactNode } from "react";

/** What an element scrolls in. */
function scrollerOf(element: Element): Element {
  for (let at = element.parentElement; at; at = at.parentElement)
    if (/auto|scroll/.test(getComputedStyle(at).overflowY)) return at;
  return document.documentElement;
}

/** While it is `on`, what stands below stays where it is on the screen though this grows or shrinks: nothing one is
 * about to press moves away. */
export function Steady({ on, children }: { on: boolean; children: ReactNode }) {
  const ref = useRef<HTMLDivElement>(null);
  useEffect(() => {
    const box = ref.current;
    if (!on || !box) return;
    const scroller = scrollerOf(box) as HTMLElement;
    let was = box.getBoundingClientRect();
    const watcher = new ResizeObserver(() => {
      const { width } = box.getBoundingClientRect();
      // In a window of another width everything moves anyway.
      if (width !== was.width) box.style.minHeight = "";
      const now = box.getBoundingClientRect();
      if (width === was.width) scroller.scrollTop += now.height - was.height;
      was = now;
      box.style.minHeight = `${now.height}px`;
    });
    watcher.observe(box);
    // What a browser does of this by itself would come on top of it.
    scroller.style.overflowAnchor = "none";
    return () => {
      watcher.disconnect();
      box.style.minHeight = "";
      scroller.style.overflowAnchor = "";
    };
  }, [on]);
  return <div ref={ref}>{children}</div>;
}
