import { Dialog } from 'radix-ui';
import type { ReactNode } from 'react';

/** A dialog over the page; Esc closes it. */
export function Modal({ open, onClose, title, children }: { open: boolean; onClose: () => void; title: string; children: ReactNode }) {
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[12vh] left-1/2 z-50 max-h-[80vh] w-[min(94vw,34rem)] -translate-x-1/2 overflow-auto rounded-md border border-line bg-raised p-5 shadow-2xl"
        >
          <Dialog.Title className="mb-3 font-head text-lg font-semibold">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
