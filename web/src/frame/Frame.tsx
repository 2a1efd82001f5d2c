import type { User } from '@fulvet/contract';
import { CircleQuestionMark, Menu, Search, X } from 'lucide-react';
import { lazy, Suspense, useEffect, useLayoutEffect, useRef, useState } from 'react';
import type { ReactNode } from 'react';
import { useLocation } from 'react-router';
import { Button } from '../parts/basics';
import { useLiveChanges } from '../api/useLiveChanges';
import { clsx } from '../parts/clsx';
import { isTyping } from '../parts/isTyping';
import { useOpenDrafts } from '../writing/openDrafts';
import { Column } from './Column';
import { titleAt } from './pages';
import type { TypedAhead } from './typedAhead';
import { typedAhead } from './typedAhead';
import { Underway } from './Underway';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { common } from '../parts/words';
import { frame as words } from './words';

const DecisionPanel = lazy(() => import('./DecisionPanel'));
const CommandList = lazy(() => import('./CommandList'));
const HelpPanel = lazy(() => import('./help/HelpPanel'));
const WritingTray = lazy(() => import('../writing/WritingTray'));
const KeyList = lazy(() => import('./KeyList'));

/** The frame around every page: the column at the left, the decision at the right edge. */
export function Frame({ user, workspace, children }: { user: User; workspace: string; children: ReactNode }) {
  const decision = useDecisionPanel();
  const drafts = useOpenDrafts(user.id);
  useLiveChanges();
  const [finding, setFinding] = useState(false);
  // The list comes a moment after it is asked for; who types at once means its field.
  const ahead = useRef<TypedAhead | null>(null);
  useLayoutEffect(() => {
    if (!finding) return;
    const typed = typedAhead();
    ahead.current = typed;
    return () => void typed.take();
  }, [finding]);
  const [asking, setAsking] = useState<'help' | 'keys' | null>(null);
  const [menu, setMenu] = useState(false);
  const { pathname } = useLocation();
  useEffect(() => {
    setMenu(false);
    const title = titleAt(pathname);
    document.title = title === null ? common.fulvet : words.fulvet(title);
  }, [pathname]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        setFinding(true);
      } else if (event.key === '?' && !isTyping(event.target)) setAsking('help');
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);

  return (
    <div className="flex min-h-screen">
      <a href="#content" className="sr-only focus:not-sr-only focus:fixed focus:top-2 focus:left-2 focus:z-50 focus:bg-raised focus:p-2">
        {words.skipToTheContent}
      </a>
      <Column user={user} workspace={workspace} shown={menu} onFind={() => setFinding(true)} onHelp={() => setAsking('help')} />
      {menu && (
        <button
          type="button"
          aria-label={words.closeTheMenu}
          className="fixed inset-0 z-20 bg-black/30 md:hidden"
          onClick={() => setMenu(false)}
        />
      )}
      <div className="flex min-w-0 grow flex-col">
        <div className="sticky top-0 z-10 flex items-center gap-2 border-b border-line bg-paper px-2 py-1.5 md:hidden">
          <Button kind="quiet" aria-label={menu ? words.closeTheMenu : words.openTheMenu} onClick={() => setMenu(!menu)}>
            {menu ? <X size={18} /> : <Menu size={18} />}
          </Button>
          <span className="font-head text-lg font-semibold">{common.fulvet}</span>
          <Button kind="quiet" aria-label={common.find} className="ml-auto" onClick={() => setFinding(true)}>
            <Search size={18} />
          </Button>
          <Button kind="quiet" aria-label={common.help} onClick={() => setAsking('help')}>
            <CircleQuestionMark size={18} />
          </Button>
        </div>
        <main id="content" tabIndex={-1} className={clsx('min-w-0 grow outline-none', drafts.shown !== null && 'md:pb-[66vh]')}>
          {children}
        </main>
        {user.role === 'admin' && <Underway />}
      </div>
      <Suspense fallback={null}>
        {decision.openId !== null && <DecisionPanel id={decision.openId} user={user} onClose={decision.close} />}
        {drafts.ids.length > 0 && <WritingTray user={user} drafts={drafts} isBesidePanel={decision.openId !== null} />}
        {finding && <CommandList user={user} takeTyped={() => ahead.current?.take() ?? ''} onClose={() => setFinding(false)} />}
        {asking === 'help' && <HelpPanel onClose={() => setAsking(null)} onKeys={() => setAsking('keys')} />}
        {asking === 'keys' && <KeyList onClose={() => setAsking(null)} />}
      </Suspense>
    </div>
  );
}
