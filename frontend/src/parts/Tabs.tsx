interface Tab<T extends string> {
  id: T;
  name: string;
}

/** A row of tabs over one panel; arrows go from one to the next. */
export function Tabs<T extends string>({
  label,
  panel,
  tabs,
  at,
  onTab,
  className = "",
}: {
  label: string;
  /** Id of the element the tabs change. */
  panel: string;
  tabs: readonly Tab<T>[];
  at: T;
  onTab: (next: T) => void;
  className?: string;
}) {
  return (
    <span role="tablist" aria-label={label} className={`flex gap-3 text-[13px] ${className}`}>
      {tabs.map(({ id, name }) => (
        <button
          key={id}
          type="button"
          role="tab"
          id={`tab-${id}`}
          aria-selected={at === id}
          aria-controls={panel}
          tabIndex={at === id ? 0 : -1}
          onClick={() => onTab(id)}
          onKeyDown={(event) => {
            const by = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
            if (!by) return;
            event.preventDefault();
            const place = tabs.findIndex((t) => t.id === at);
            const next = tabs[(place + by + tabs.length) % tabs.length]!.id;
            onTab(next);
            document.getElementById(`tab-${next}`)?.focus();
          }}
          className={`border-b-2 font-bold ${at === id ? "border-ink text-ink" : "border-transparent font-semibold text-ink-2 hover:text-ink"}`}
        >
          {name}
        </button>
      ))}
    </span>
  );
}
