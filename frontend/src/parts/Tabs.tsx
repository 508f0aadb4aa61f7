import { Tabs } from "radix-ui";
import type { ReactElement, ReactNode, Ref } from "react";

/** What has tabs and the panel they change; the child is the element that holds both. */
export function Tabbed<T extends string>({
  at,
  onTab,
  children,
}: {
  at: T;
  onTab: (next: T) => void;
  children: ReactElement;
}) {
  return (
    <Tabs.Root asChild value={at} onValueChange={(next) => onTab(next as T)}>
      {children}
    </Tabs.Root>
  );
}

/** A row of tabs; arrows go from one to the next. */
export function TabRow({
  label,
  tabs,
  className = "",
}: {
  label: string;
  tabs: readonly { id: string; name: string }[];
  className?: string;
}) {
  return (
    <Tabs.List aria-label={label} className={`flex gap-3 text-[13px] ${className}`}>
      {tabs.map(({ id, name }) => (
        <Tabs.Trigger
          key={id}
          value={id}
          className="border-b-2 border-transparent font-semibold text-ink-2 hover:text-ink data-[state=active]:border-ink data-[state=active]:font-bold data-[state=active]:text-ink"
        >
          {name}
        </Tabs.Trigger>
      ))}
    </Tabs.List>
  );
}

/** The panel of the tab that is chosen; it stays in its place, whichever that is. */
export function TabPanel({
  at,
  className,
  children,
  ref,
}: {
  at: string;
  className?: string;
  children: ReactNode;
  ref?: Ref<HTMLDivElement>;
}) {
  return (
    <Tabs.Content value={at} className={className} ref={ref}>
      {children}
    </Tabs.Content>
  );
}
