import { useEffect, useState } from "react";

/** A value once it has stayed the same for some time (ms); until then undefined. For what takes the server long. */
export function useSettled<T>(value: T, time: number): T | undefined {
  const [settled, setSettled] = useState<T>();
  useEffect(() => {
    const timer = setTimeout(() => setSettled(value), time);
    return () => clearTimeout(timer);
  }, [value, time]);
  return settled === value ? settled : undefined;
}
