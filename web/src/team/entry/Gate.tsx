import type { ReactNode } from 'react';
import { common } from '../../parts/words';

/** The page before the frame: the line as a drawing, and a form. */
export function Gate({ title, children }: { title: string; children: ReactNode }) {
  return (
    <main className="grid min-h-screen place-items-center px-4 py-10">
      <div className="w-full max-w-sm">
        <div className="mb-6 flex items-center gap-3">
          <img src="/mark.svg" alt="" className="size-9" />
          <span className="font-head text-xl font-semibold">{common.fulvet}</span>
        </div>
        <h1 className="mb-4 text-lg">{title}</h1>
        {children}
      </div>
    </main>
  );
}
