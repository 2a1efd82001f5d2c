import { lazy, Suspense, useEffect, useMemo, useState } from 'react';
import type { ReactNode } from 'react';
import { notices as words } from './words';

/** Loaded with the first notice: most visits begin without one. */
const Toaster = lazy(() => import('sonner').then((module) => ({ default: module.Toaster })));

interface Action {
  label: string;
  run: () => void | Promise<void>;
}

const SHOWN_MS = 12_000;

/** Whether notices can be shown; what is to be said until then, and how to ask for the place where they appear. */
let mounted = false;
const waiting: (() => void)[] = [];
let want = (): void => undefined;

/** Says what was done, with a way to undo it where there is one. */
export function useNotice(): (text: string, action?: Action) => void {
  return useMemo(() => notify, []);
}

function notify(text: string, action?: Action): void {
  const run = (): void => {
    Promise.resolve(action?.run()).catch((error: unknown) => notify(error instanceof Error ? error.message : words.thatCouldNotBe));
  };
  const say = (): void => {
    void import('sonner').then(({ toast }) =>
      toast(text, {
        duration: action ? SHOWN_MS * 2 : SHOWN_MS,
        ...(action ? { action: { label: action.label, onClick: run } } : {}),
      }),
    );
  };
  if (mounted) say();
  else {
    waiting.push(say);
    want();
  }
}

const CLASSES = {
  toast: 'flex w-full items-center gap-3 rounded border border-line bg-ink px-3 py-2 text-paper shadow-lg',
  content: 'min-w-0 grow',
  title: 'text-base',
  actionButton: 'min-h-8 shrink-0 rounded border border-line bg-raised px-2.5 text-sm font-medium text-ink',
  closeButton: 'order-last flex size-7 shrink-0 items-center justify-center rounded hover:bg-raised/15',
};

/** Where notices appear: at the bottom, above everything, the last three. */
export function Notices({ children }: { children: ReactNode }) {
  const [wanted, setWanted] = useState(false);
  useEffect(() => {
    want = () => setWanted(true);
    if (waiting.length > 0) setWanted(true);
    return () => {
      want = () => undefined;
      waiting.length = 0;
    };
  }, []);
  return (
    <>
      {children}
      <Suspense fallback={null}>{wanted && <Shown />}</Suspense>
    </>
  );
}

function Shown() {
  useEffect(() => {
    mounted = true;
    for (const say of waiting.splice(0)) say();
    return () => {
      mounted = false;
    };
  }, []);
  return (
    <Toaster
      position="bottom-center"
      visibleToasts={3}
      closeButton
      style={{ '--width': 'min(92vw, 34rem)', pointerEvents: 'auto' } as object}
      toastOptions={{ unstyled: true, closeButtonAriaLabel: words.dismiss, classNames: CLASSES }}
    />
  );
}
