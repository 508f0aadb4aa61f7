import type { Schemas } from "../../api/client";

export type Contact = Schemas["Jack"]["contact"];

/** What a plug does, in a few words. */
export const SHORT: Record<Contact, string> = {
  plain: "",
  beside: "in parallel",
  takes_out: "opens a contact",
  after: "in series",
  cuts_off: "cuts another way off",
  apart: "a half of its own",
  unknown: "not known",
};

const GLYPHS: Record<Contact, string> = {
  plain: "M2 14h52",
  beside: "M2 9h52M28 9v16",
  takes_out: "M2 14h16M38 14h16M18 14l18-10",
  after: "M2 14h12l4-9 7 18 7-18 7 18 4-9h11",
  cuts_off: "M2 6h20M54 14H36M2 22h20M36 14L22 21",
  apart: "M2 7h52M2 21h52",
  unknown: "M24 9a5 5 0 1 1 6 5c-2 1-2 2-2 4M28 22v1",
};

/** How a plug's work is drawn, as a short piece of circuit. */
export function ContactGlyph({ contact }: { contact: Contact }) {
  return (
    <svg width="56" height="28" viewBox="0 0 56 28" aria-hidden className="shrink-0 stroke-current">
      <path d={GLYPHS[contact]} fill="none" strokeWidth="2.4" strokeLinecap="round" strokeLinejoin="round" />
    </svg>
  );
}

/** What the positions of a field that says how sockets are wired do, drawn. */
export const DRAWN: Record<string, Record<string, Contact>> = {
  through: { none: "plain", parallel: "beside", switching: "takes_out", unknown: "unknown" },
  jack_wiring: {
    parallel: "beside",
    series: "after",
    switching: "cuts_off",
    separate: "apart",
    mono_stereo: "apart",
    unknown: "unknown",
  },
  idle: { loaded: "takes_out", open: "cuts_off", unknown: "unknown" },
};
