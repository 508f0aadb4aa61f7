import { useEffect, useState } from "react";

/** The size of an element that may come and go, kept up to date. */
export function useSize() {
  const [element, ref] = useState<HTMLElement | null>(null);
  const [size, setSize] = useState({ width: 900, height: 300 });
  useEffect(() => {
    if (!element) return;
    const watcher = new ResizeObserver(() =>
      setSize({ width: element.clientWidth, height: element.clientHeight }),
    );
    watcher.observe(element);
    return () => watcher.disconnect();
  }, [element]);
  return { ref, ...size };
}
