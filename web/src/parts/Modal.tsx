import { Dialog } from 'radix-ui';
import type { ReactNode } from 'react';
import { clsx } from './clsx';

/** A dialog over the page; Esc closes it. */
export function Modal({
  open,
  onClose,
  title,
  wide = false,
  children,
}: {
  open: boolean;
  onClose: () => void;
  title: string;
  wide?: boolean;
  children: ReactNode;
}) {
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className={clsx(
            'outline-none fixed top-[12vh] left-1/2 z-50 max-h-[80vh] -translate-x-1/2 overflow-auto rounded-md border border-line bg-raised p-5 shadow-2xl',
            wide ? 'w-[min(94vw,52rem)]' : 'w-[min(94vw,34rem)]',
          )}
        >
          <Dialog.Title className="mb-3 font-head text-lg font-semibold">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}
