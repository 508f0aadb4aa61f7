import { X } from "lucide-react";
import type { KeyboardEvent, ReactNode } from "react";

/** What takes the place of the findings for a while: a title, a way back, and what scrolls below. */
export function Panel({
  title,
  about,
  close = "Close, back to the findings",
  onClose,
  onKeyDown,
  children,
}: {
  title: string;
  about: string;
  close?: string;
  onClose: () => void;
  onKeyDown?: (event: KeyboardEvent<HTMLElement>) => void;
  children: ReactNode;
}) {
  return (
    // eslint-disable-next-line jsx-a11y/no-static-element-interactions -- keys work from anywhere inside
    <div
      className="flex min-h-0 flex-1 flex-col"
      onKeyDown={(event) => {
        if (event.key === "Escape") {
          event.preventDefault();
          event.stopPropagation();
          onClose();
        } else onKeyDown?.(event);
      }}
    >
      <div className="flex shrink-0 items-start justify-between gap-2 px-4 pt-3 pb-2">
        <h2 className="text-[13px] font-bold">
          {title}
          <span className="block font-normal text-ink-2">{about}</span>
        </h2>
        <button type="button" aria-label={close} onClick={onClose} className="rounded p-1 hover:bg-faint">
          <X size={16} />
        </button>
      </div>
      {children}
    </div>
  );
}
