import { useEffect, useState } from "react";

const MOST_MIN = 20;
const STORE = "low-tide-choosing";

interface Choosing {
  blend: number;
  began: number;
  tried: number;
}

function kept(): Choosing | undefined {
  try {
    return JSON.parse(sessionStorage.getItem(STORE) ?? "") as Choosing;
  } catch {
    return undefined;
  }
}

/** How long one has been choosing, and how many blends were heard: few, named options, and an end. */
export function useChoosing(blend: number) {
  const [now, setNow] = useState<Choosing>(() => {
    const before = kept();
    return before?.blend === blend ? before : { blend, began: 0, tried: 0 };
  });
  const [, tick] = useState(0);
  useEffect(() => {
    const timer = setInterval(() => tick((n) => n + 1), 20_000);
    return () => clearInterval(timer);
  }, []);
  useEffect(() => sessionStorage.setItem(STORE, JSON.stringify(now)), [now]);
  const minutes = now.began ? Math.floor((Date.now() - now.began) / 60_000) : 0;
  const over = minutes >= MOST_MIN;
  return {
    tried: now.tried,
    over,
    words:
      now.tried === 0
        ? `${MOST_MIN} min are a good bound for choosing.`
        : `${minutes} min of choosing, ${now.tried} heard${over ? ": take one, and go on" : ""}.`,
    count: () => setNow((c) => ({ ...c, began: c.began || Date.now(), tried: c.tried + 1 })),
    done: () => setNow({ blend, began: 0, tried: 0 }),
  };
}
