import { useRef } from "react";

/** Where the focus was when a dialog opened, and back there when it closes: dialogs here have no trigger of their own. */
export function useFocusBack() {
  const before = useRef<Element>(null);
  return {
    leave: () => {
      before.current = document.activeElement;
    },
    back: (event: Event) => {
      event.preventDefault();
      if (before.current instanceof HTMLElement && before.current.isConnected) before.current.focus();
    },
  };
}
