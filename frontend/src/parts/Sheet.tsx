import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { useFocusBack } from "./useFocusBack";

/** A dialog for what interrupts: finding, keys, preferences. */
export function Sheet({
  open,
  onClose,
  title,
  about,
  children,
  wide = false,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  about?: string;
  children: ReactNode;
  wide?: boolean;
}) {
  const focus = useFocusBack();
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/40 night:bg-black/60" />
        <Dialog.Content
          onCloseAutoFocus={focus.back}
          onOpenAutoFocus={(event) => {
            focus.leave();
            const first = (event.currentTarget as HTMLElement).querySelector<HTMLElement>(
              "input, select, textarea",
            );
            if (first) {
              event.preventDefault();
              first.focus();
            }
          }}
          className={`fixed top-[8vh] left-1/2 z-50 max-h-[84vh] -translate-x-1/2 overflow-y-auto rounded-xl border border-line bg-sheet p-5 ${wide ? "w-[min(720px,94vw)]" : "w-[min(520px,94vw)]"}`}
          {...(about ? {} : { "aria-describedby": undefined })}
        >
          <div className="mb-3 flex items-start justify-between gap-4">
            <div>
              <Dialog.Title className="text-[17px] font-bold">{title}</Dialog.Title>
              {about && (
                <Dialog.Description className="mt-0.5 text-[13px] text-ink-2">{about}</Dialog.Description>
              )}
            </div>
            <Dialog.Close aria-label="Close" className="rounded-md p-1 text-ink-2 hover:bg-faint">
              <X size={18} />
            </Dialog.Close>
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
