import { useEffect } from "react";

/** Keeps the screen of a device on while it is read from afar, where the browser lets a page ask for that. */
export function useAwake() {
  useEffect(() => {
    if (!("wakeLock" in navigator) || !window.matchMedia("(pointer: coarse)").matches) return;
    let lock: WakeLockSentinel | undefined;
    let gone = false;
    const ask = () => {
      if (document.hidden) return;
      navigator.wakeLock.request("screen").then(
        (given) => (gone ? void given.release() : (lock = given)),
        () => undefined, // low on power, or forbidden: the device's own time then counts
      );
    };
    ask();
    document.addEventListener("visibilitychange", ask);
    return () => {
      gone = true;
      document.removeEventListener("visibilitychange", ask);
      void lock?.release();
    };
  }, []);
}
