import { useCallback, useLayoutEffect, useRef } from "react";

/** A function that stays the same between renders and always does what the latest one would. For events only. */
export function useStable<A extends unknown[]>(act: (...args: A) => void): (...args: A) => void {
  const latest = useRef(act);
  useLayoutEffect(() => {
    latest.current = act;
  });
  return useCallback((...args: A) => latest.current(...args), []);
}
