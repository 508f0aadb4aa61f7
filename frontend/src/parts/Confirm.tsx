import { AlertDialog } from "radix-ui";
import type { ReactNode } from "react";
import { Button } from "./controls";
import { useFocusBack } from "./useFocusBack";

/** Asks before something is lost. */
export function Confirm({
  open,
  title,
  children,
  yes,
  no = "Keep it as it is",
  onYes,
  onClose,
}: {
  open: boolean;
  title: string;
  children: ReactNode;
  yes: string;
  no?: string;
  onYes: () => void;
  onClose: () => void;
}) {
  const focus = useFocusBack();
  return (
    <AlertDialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <AlertDialog.Portal>
        <AlertDialog.Overlay className="fixed inset-0 z-40 bg-ink/40 night:bg-black/60" />
        <AlertDialog.Content
          role="dialog"
          onOpenAutoFocus={focus.leave}
          onCloseAutoFocus={focus.back}
          className="fixed top-1/2 left-1/2 z-50 w-[min(440px,92vw)] -translate-x-1/2 -translate-y-1/2 rounded-xl border border-line bg-sheet p-5"
        >
          <AlertDialog.Title className="text-[17px] font-bold">{title}</AlertDialog.Title>
          <AlertDialog.Description asChild>
            <div className="mt-2 text-ink-2">{children}</div>
          </AlertDialog.Description>
          <div className="mt-4 flex justify-end gap-2">
            <AlertDialog.Cancel asChild>
              <Button>{no}</Button>
            </AlertDialog.Cancel>
            <AlertDialog.Action asChild>
              <Button look="danger" onClick={onYes}>
                {yes}
              </Button>
            </AlertDialog.Action>
          </div>
        </AlertDialog.Content>
      </AlertDialog.Portal>
    </AlertDialog.Root>
  );
}
