import { useIsFetching, useQueryClient } from '@tanstack/react-query';
import { Suspense, useEffect, useState } from 'react';
import { clsx } from './clsx';
import type { ButtonHTMLAttributes, InputHTMLAttributes, ReactNode } from 'react';
import { basics as texts, common } from './words';

type ButtonKind = 'main' | 'plain' | 'quiet' | 'danger';

const BUTTONS: Record<ButtonKind, string> = {
  main: 'bg-spruce text-onspruce border-spruce hover:opacity-90',
  plain: 'bg-raised text-ink border-line hover:border-muted',
  quiet: 'bg-transparent text-ink border-transparent hover:bg-sunk',
  danger: 'bg-raised text-brick border-brick/50 hover:border-brick',
};

export function Button({
  kind = 'plain',
  className,
  type = 'button',
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & { kind?: ButtonKind }) {
  return (
    <button
      type={type}
      className={clsx(
        'inline-flex min-h-8 items-center gap-1.5 rounded border px-2.5 py-1 text-sm font-medium whitespace-nowrap disabled:opacity-50',
        BUTTONS[kind],
        className,
      )}
      {...rest}
    />
  );
}

export function TextInput({ className, ...rest }: InputHTMLAttributes<HTMLInputElement>) {
  return (
    <input
      className={clsx('min-h-8 w-full rounded border border-line bg-raised px-2 py-1 text-base placeholder:text-muted', className)}
      {...rest}
    />
  );
}

/** A labelled control with its error, or else its hint; a control that says so is described by it. */
export function Field({
  label,
  error,
  hint,
  noteId,
  children,
}: {
  label: string;
  error?: string | undefined;
  hint?: string | undefined;
  noteId?: string;
  children: ReactNode;
}) {
  return (
    <div>
      <label className="block">
        <span className="mb-1 block text-sm font-medium">{label}</span>
        {children}
      </label>
      {hint && !error && (
        <p id={noteId} className="mt-1 text-sm text-muted">
          {hint}
        </p>
      )}
      {error && (
        <p id={noteId} role="alert" className="mt-1 text-sm text-brick">
          {error}
        </p>
      )}
    </div>
  );
}

/** A failure in words, where it happened. */
export function Trouble({ error, children }: { error: unknown; children?: ReactNode }) {
  if (!error) return null;
  return (
    <div role="alert" className="my-2 rounded border border-brick/40 bg-raised px-3 py-2 text-brick">
      {error instanceof Error ? error.message : texts.somethingWentWrong} {children}
    </div>
  );
}

/** What will appear here and how to make it so. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="mx-auto max-w-md px-4 py-14 text-center">
      <h2 className="text-lg">{title}</h2>
      <div className="mt-2 text-muted">{children}</div>
    </div>
  );
}

/** An address in the monospaced face; where it has to break, it does so before its domain. */
export function Address({ children, className }: { children: string; className?: string }) {
  const at = children.lastIndexOf('@') + 1;
  return (
    <span className={clsx('font-mono text-[0.92em] wrap-anywhere', className)}>
      {children.slice(0, at)}
      {at > 0 && <wbr />}
      {children.slice(at)}
    </span>
  );
}

/** Says in a sentence what a page is for. */
export const Purpose = ({ children }: { children: string }) => <p className="max-w-prose text-sm text-muted">{children}</p>;

export function Page({
  title,
  purpose,
  aside,
  children,
  wide = false,
}: {
  title: ReactNode;
  /** What it is for, in a sentence. */
  purpose?: string;
  aside?: ReactNode;
  children: ReactNode;
  wide?: boolean;
}) {
  return (
    <div className={clsx('px-4 pt-4 pb-16 sm:px-6', !wide && 'max-w-5xl')}>
      <header className="mb-4 flex flex-wrap items-end justify-between gap-x-6 gap-y-2">
        <div className="min-w-0">
          <h1 className="text-xl leading-tight">{title}</h1>
          {purpose !== undefined && <Purpose>{purpose}</Purpose>}
        </div>
        {aside}
      </header>
      {children}
    </div>
  );
}

export function Progress({ done, total, label }: { done: number; total: number; label: string }) {
  const share = total > 0 ? Math.min(1, done / total) : 0;
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuenow={Math.round(share * 100)}
      aria-valuemin={0}
      aria-valuemax={100}
      className="h-1.5 w-full overflow-hidden rounded-full bg-sunk"
    >
      <div className="h-full bg-spruce transition-[width]" style={{ width: `${share * 100}%` }} />
    </div>
  );
}

export function Waiting({ what }: { what: string }) {
  return (
    <p role="status" className="px-4 py-10 text-center text-muted">
      {what} …
    </p>
  );
}

const FIRST_ANSWERS = { predicate: ({ state }: { state: { status: string } }) => state.status === 'pending' };

/** Shows parts that load by themselves all at once, when each has its first answer: nothing moves away under the pointer. */
export function Together({ className, children }: { className?: string; children: ReactNode }) {
  return (
    <Suspense>
      <ShownTogether className={className}>{children}</ShownTogether>
    </Suspense>
  );
}

function ShownTogether({ className, children }: { className: string | undefined; children: ReactNode }) {
  const client = useQueryClient();
  const loading = useIsFetching(FIRST_ANSWERS);
  const [shown, setShown] = useState(false);
  // Whatever the page asks is asked a moment later: effects run from the leaves up. `loading` is told together with the answers.
  useEffect(() => {
    if (loading > 0) return;
    const timer = window.setTimeout(() => client.isFetching(FIRST_ANSWERS) === 0 && setShown(true));
    return () => window.clearTimeout(timer);
  }, [client, loading]);
  return (
    <div className="relative min-w-0">
      {!shown && (
        <div className="absolute inset-x-0 top-0">
          <Waiting what={common.loading} />
        </div>
      )}
      <div aria-busy={!shown} className={clsx(className, !shown && 'invisible')}>
        {children}
      </div>
    </div>
  );
}
