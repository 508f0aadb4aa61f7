import type { Severity } from "../api/client";

export const SEVERITY_NAMES: Record<Severity, string> = {
  stop: "Stop",
  caution: "Caution",
  note: "Note",
  fine: "Fine",
};

/** The mark of a severity, told by its shape as well as its colour: bar, triangle, ring, tick. */
export function Mark({ severity, size = 20 }: { severity: Severity; size?: number }) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 22 22"
      role="img"
      aria-label={SEVERITY_NAMES[severity]}
      className="shrink-0"
    >
      {severity === "stop" && (
        <>
          <circle cx="11" cy="11" r="10" className="fill-stop" />
          <path d="M6 11h10" className="stroke-sheet" strokeWidth="3" />
        </>
      )}
      {severity === "caution" && (
        <>
          <path d="M11 1.5l10 18.5H1z" className="fill-caution" />
          <path d="M11 8v6M11 16v2" className="stroke-sheet" strokeWidth="2.2" />
        </>
      )}
      {severity === "note" && (
        <>
          <circle cx="11" cy="11" r="9.2" fill="none" className="stroke-ink-2" strokeWidth="1.7" />
          <path d="M11 9.6v6.6M11 5.6v2.2" className="stroke-ink-2" strokeWidth="2.2" />
        </>
      )}
      {severity === "fine" && (
        <>
          <circle cx="11" cy="11" r="10" className="fill-ok" />
          <path d="M6 11l4 4 6-7.5" className="stroke-sheet" strokeWidth="2.4" fill="none" />
        </>
      )}
    </svg>
  );
}

export const INK: Record<string, string> = {
  stop: "text-stop",
  caution: "text-caution",
  note: "text-ink",
  fine: "text-ink",
};

/** The mark of a whole verdict: clear is a tick, whether or not there are notes. */
export function VerdictMark({ severity, size }: { severity: string; size?: number }) {
  return <Mark severity={severity === "note" ? "fine" : (severity as Severity)} size={size} />;
}
