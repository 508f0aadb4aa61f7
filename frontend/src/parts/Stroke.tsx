import { strokeOf } from "./strokes";

/** How the curve at a place in a list is drawn, as a short sample. */
export function Stroke({ of, className }: { of: number; className?: string }) {
  return (
    <svg width="28" height="8" aria-hidden className={`inline-block shrink-0 ${className ?? ""}`}>
      <path d="M0 4h28" strokeWidth="2.4" {...strokeOf(of)} />
    </svg>
  );
}
