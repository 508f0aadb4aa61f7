import { useEffect, useLayoutEffect, useRef } from "react";

export type Keys = Record<string, (event: KeyboardEvent) => void>;

function typing(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName))
  );
}

/** Single keys for a screen; silent while somebody types, while a dialog is open, and with Ctrl, Alt or Meta. */
export function useKeys(keys: Keys, active = true): void {
  const latest = useRef(keys);
  // Before the browser paints: a key that is offered on the screen works.
  useLayoutEffect(() => {
    latest.current = keys;
  });
  useEffect(() => {
    if (!active) return;
    const onKey = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.altKey || event.metaKey || event.defaultPrevented) return;
      if (typing(event.target) && event.key !== "Escape") return;
      if (document.querySelector('[role="dialog"]')) return;
      const run = latest.current[event.key];
      if (run) {
        event.preventDefault();
        run(event);
      }
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [active]);
}
