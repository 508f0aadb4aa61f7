/** A line drawing of each kind of gear: what it is in the signal, not what any one looks like. */
const PATHS: Record<string, string> = {
  guitar: "M4 17c-2 2 1 6 4 4 2-1 2-3 4-4l2 0 0-2 8-9 1 1 2-2-3-3-2 2 1 1-9 8-2 0c-1 2-3 2-4 4z",
  pedal: "M7 3h12v20H7zM10 6h2M14 6h2M13 17m-3 0a3 3 0 1 0 6 0a3 3 0 1 0-6 0",
  processor: "M2 6h22v14H2zM5 9h9v5H5zM17 10h4M17 13h4M5 17h1M9 17h1M13 17h1",
  amp: "M2 6h22v13H2zM2 12h22M6 15.5h.1M10 15.5h.1M14 15.5h.1M20 14.5v2M7 6V4h12v2",
  load: "M2 13h4l1.5-5 3 10 3-10 3 10 1.5-5h6",
  attenuator: "M2 9h5l1-3 2 6 2-6 2 6 1-3h9M15 9v2l-2 1 4 2-4 2 4 2-2 1v3",
  reamp: "M2 13h4l1-3 2 6 2-6 1 3h2M14 6l9 7-9 7z",
  tap_box: "M2 8h22M10 8v5h6v8M14 18l2 3 2-3",
  switcher:
    "M3 6h6M3 20h6M23 13h-7M9 6l7 7M9 6m-1.5 0a1.5 1.5 0 1 0 3 0a1.5 1.5 0 1 0-3 0M9 20m-1.5 0a1.5 1.5 0 1 0 3 0a1.5 1.5 0 1 0-3 0",
  cabinet:
    "M3 3h20v20H3zM13 13m-7 0a7 7 0 1 0 14 0a7 7 0 1 0-14 0M13 13m-2.5 0a2.5 2.5 0 1 0 5 0a2.5 2.5 0 1 0-5 0",
  microphone: "M9 4h8v6a4 4 0 0 1-8 0zM9 7h8M13 14v8M9 22h8",
  line_box:
    "M3 8h20v10H3zM7 13m-1.5 0a1.5 1.5 0 1 0 3 0a1.5 1.5 0 1 0-3 0M19 13m-1.5 0a1.5 1.5 0 1 0 3 0a1.5 1.5 0 1 0-3 0M10 13h5",
  interface:
    "M2 8h22v10H2zM6 13m-2 0a2 2 0 1 0 4 0a2 2 0 1 0-4 0M12 13m-2 0a2 2 0 1 0 4 0a2 2 0 1 0-4 0M18 11v4M21 10v6",
  headphones: "M4 17v-4a9 9 0 0 1 18 0v4M4 15h3v7H4zM19 15h3v7h-3z",
  room: "M3 22V7l10-4 10 4v15zM10 22v-8h6v8",
  partition: "M11 2h4v22h-4zM3 13h5M18 13h2M5 10l-3 3 3 3M22 13h1",
  place: "M13 3a6 6 0 0 1 6 6c0 4-4 6-4 10a3 3 0 0 1-6 1M10 9a3 3 0 0 1 6 0",
  mount: "M3 5h20v6H3zM6 11l3 2-3 2 3 2-3 2 3 2M20 11l-3 2 3 2-3 2 3 2-3 2M2 23h22",
  lead: "M2 17h5v-3H2M7 15.5c7 0 3-6 12-6M19 8h5v3h-5z",
};

export function Drawing({ kind, size = 26 }: { kind: string; size?: number }) {
  return (
    <svg width={size} height={size} viewBox="0 0 26 26" aria-hidden className="shrink-0 text-ink-2">
      <path
        d={PATHS[kind] ?? "M3 6h20v14H3z"}
        fill="none"
        stroke="currentColor"
        strokeWidth="1.5"
        strokeLinejoin="round"
        strokeLinecap="round"
      />
    </svg>
  );
}
