import { createContext, useCallback, useContext, useMemo, useRef, useState } from 'react';
import type { ReactNode } from 'react';
import { Button } from './basics';

interface Notice {
  id: number;
  text: string;
  action?: { label: string; run: () => void | Promise<void> } | undefined;
}

const NoticeContext = createContext<(text: string, action?: Notice['action']) => void>(() => undefined);
const SHOWN_MS = 12_000;

/** Says what was done, with a way to undo it where there is one. */
export function useNotice(): (text: string, action?: Notice['action']) => void {
  return useContext(NoticeContext);
}

export function Notices({ children }: { children: ReactNode }) {
  const [notices, setNotices] = useState<Notice[]>([]);
  const last = useRef(0);
  const dismiss = useCallback((id: number) => setNotices((all) => all.filter((notice) => notice.id !== id)), []);
  const tell = useCallback(
    (text: string, action?: Notice['action']) => {
      last.current += 1;
      const id = last.current;
      setNotices((all) => [...all.slice(-1), { id, text, action }]);
      window.setTimeout(() => dismiss(id), action ? SHOWN_MS * 2 : SHOWN_MS);
    },
    [dismiss],
  );
  const value = useMemo(() => tell, [tell]);
  return (
    <NoticeContext.Provider value={value}>
      {children}
      <div aria-live="polite" className="fixed bottom-4 left-1/2 z-50 flex w-[min(92vw,34rem)] -translate-x-1/2 flex-col gap-2">
        {notices.map((notice) => (
          <div key={notice.id} className="flex items-center gap-3 rounded border border-line bg-ink px-3 py-2 text-paper shadow-lg">
            <span className="grow">{notice.text}</span>
            {notice.action && (
              <Button
                onClick={() => {
                  dismiss(notice.id);
                  Promise.resolve(notice.action?.run()).catch((error: unknown) =>
                    tell(error instanceof Error ? error.message : 'That could not be done.'),
                  );
                }}
              >
                {notice.action.label}
              </Button>
            )}
            <button type="button" aria-label="Dismiss" className="px-1 text-lg leading-none" onClick={() => dismiss(notice.id)}>
              ×
            </button>
          </div>
        ))}
      </div>
    </NoticeContext.Provider>
  );
}
