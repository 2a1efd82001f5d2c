import type { ReactNode } from 'react';

/** A step's rules, and beside them the emails that it decided last; below them where there is no room. */
export function StepColumns({ children, beside }: { children: ReactNode; beside: ReactNode }) {
  return (
    <div className="grid gap-x-10 gap-y-8 lg:grid-cols-[minmax(0,1.55fr)_minmax(20rem,1fr)]">
      <div className="min-w-0">{children}</div>
      <div className="min-w-0 lg:sticky lg:top-4 lg:max-h-[calc(100vh-2rem)] lg:self-start lg:overflow-y-auto">{beside}</div>
    </div>
  );
}
