import { clsx } from "clsx";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";

/** A sheet over the screen: focus stays inside, Escape closes. */
export function Sheet({
  title,
  onClose,
  children,
  wide = false,
}: {
  title: string;
  onClose: () => void;
  children: ReactNode;
  wide?: boolean;
}) {
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-mast/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className={clsx(
            "fixed top-1/2 left-1/2 z-50 max-h-[88vh] -translate-x-1/2",
            "-translate-y-1/2 overflow-auto border border-edge bg-sheet p-5",
            wide ? "w-[min(760px,94vw)]" : "w-[min(440px,94vw)]",
          )}
        >
          <Dialog.Title className="text-lg font-semibold">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
