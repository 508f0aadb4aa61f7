import type { ReactNode } from "react";
import { Tabbed, TabPanel, TabRow } from "./Tabs";

/** What stands beside a picture, a panel a tab. */
export function TabbedAside<T extends string>({
  tabs,
  at,
  onTab,
  children,
}: {
  tabs: readonly { id: T; name: string }[];
  at: T;
  onTab: (next: T) => void;
  children: ReactNode;
}) {
  return (
    <Tabbed at={at} onTab={onTab}>
      <aside className="flex min-h-[340px] shrink-0 flex-col border-t border-line bg-sheet lg:w-[348px] lg:border-t-0 lg:border-l">
        <TabRow label="About it" tabs={tabs} className="shrink-0 border-b border-line px-4 pt-2.5 pb-1" />
        <TabPanel at={at} className="flex min-h-0 flex-1 flex-col">
          {children}
        </TabPanel>
      </aside>
    </Tabbed>
  );
}
