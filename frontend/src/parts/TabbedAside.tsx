import type { ReactNode } from "react";
import { Tabs } from "./Tabs";

/** What stands beside a picture, a panel a tab. */
export function TabbedAside<T extends string>({
  panel,
  tabs,
  at,
  onTab,
  children,
}: {
  panel: string;
  tabs: readonly { id: T; name: string }[];
  at: T;
  onTab: (next: T) => void;
  children: ReactNode;
}) {
  return (
    <aside className="flex min-h-[340px] shrink-0 flex-col border-t border-line bg-sheet lg:w-[348px] lg:border-t-0 lg:border-l">
      <Tabs
        label="About it"
        panel={panel}
        tabs={tabs}
        at={at}
        onTab={onTab}
        className="shrink-0 border-b border-line px-4 pt-2.5 pb-1"
      />
      <div id={panel} role="tabpanel" aria-labelledby={`tab-${at}`} className="flex min-h-0 flex-1 flex-col">
        {children}
      </div>
    </aside>
  );
}
