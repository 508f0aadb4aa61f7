import { useEffect, useLayoutEffect, useRef } from "react";

/** What each key does; one that says false has not been for it, and goes on to whoever else listens. */
export type Keys = Record<string, (event: KeyboardEvent) => unknown>;

function typing(target: EventTarget | null): boolean {
  return (
    target instanceof HTMLElement &&
    (target.isContentEditable || ["INPUT", "TEXTAREA", "SELECT"].includes(target.tagName))
  );
}

/** Single keys for a screen; silent while somebody types, while a dialog is open, and with Ctrl, Alt or Meta.
 *
 * What undoes by a key does so by Ctrl+Z as well, as everywhere else. */
export function useKeys(keys: Keys, active = true): void {
  const latest = useRef(keys);
  // Before the browser paints: a key that is offered on the screen works.
  useLayoutEffect(() => {
    latest.current = keys;
  });
  useEffect(() => {
    if (!active) return;
    const onKey = (event: KeyboardEvent) => {
      if (event.altKey || event.defaultPrevented) return;
      if (typing(event.target) && event.key !== "Escape") return;
      if (document.querySelector('[role="dialog"]')) return;
      const held = event.ctrlKey || event.metaKey;
      const undo = held && event.key.toLowerCase() === "z";
      const run = undo
        ? latest.current[event.shiftKey ? "U" : "u"]
        : held
          ? undefined
          : latest.current[event.key];
      if (run && run(event) !== false) event.preventDefault();
    };
    window.addEventListener("keydown", onKey);
    return () => window.removeEventListener("keydown", onKey);
  }, [active]);
}
