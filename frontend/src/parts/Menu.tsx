import { DropdownMenu } from "radix-ui";
import type { ReactElement, ReactNode } from "react";

export interface MenuItem {
  label: ReactNode;
  key?: string;
  run: () => void;
}

/** A short list of things to do, under the button that opens it. */
export function Menu({ trigger, items }: { trigger: ReactElement; items: MenuItem[] }) {
  return (
    <DropdownMenu.Root>
      <DropdownMenu.Trigger asChild>{trigger}</DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="end"
          className="z-40 max-h-[70vh] min-w-[190px] overflow-y-auto rounded-lg border border-line bg-sheet p-1 shadow-lg"
        >
          {items.map(({ label, key, run }) => (
            <DropdownMenu.Item
              key={key ?? String(label)}
              className="cursor-pointer rounded px-2.5 py-1.5 outline-none data-[highlighted]:bg-shoal"
              onSelect={run}
            >
              {label}
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}
