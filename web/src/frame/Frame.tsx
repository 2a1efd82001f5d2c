import type { User } from '@fulvet/contract';
import { useQueryClient } from '@tanstack/react-query';
import { Menu, Search, X } from 'lucide-react';
import { lazy, Suspense, useEffect, useState } from 'react';
import type { ReactNode } from 'react';
import { Link, NavLink, useLocation } from 'react-router';
import { useRequests } from '../sharing/queries';
import { call } from '../api/call';
import { Button } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { useLiveChanges } from '../api/useLiveChanges';
import { isTyping } from '../parts/isTyping';
import { LineColumn } from './LineColumn';
import { useDocket } from '../parts/useDocket';

const DocketPanel = lazy(() => import('./DocketPanel'));
const CommandList = lazy(() => import('./CommandList'));
const KeyList = lazy(() => import('./KeyList'));

/** The frame around every page: the line at the left, the decision at the right edge. */
export function Frame({ user, workspace, children }: { user: User; workspace: string; children: ReactNode }) {
  const docket = useDocket();
  useLiveChanges();
  const [finding, setFinding] = useState(false);
  const [keys, setKeys] = useState(false);
  const [menu, setMenu] = useState(false);
  const { pathname } = useLocation();
  useEffect(() => setMenu(false), [pathname]);
  useEffect(() => {
    const onKey = (event: KeyboardEvent): void => {
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === 'k') {
        event.preventDefault();
        setFinding(true);
      } else if (event.key === '?' && !isTyping(event.target)) setKeys(true);
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, []);

  return (
    <div className="flex min-h-screen">
      <a href="#content" className="sr-only focus:not-sr-only focus:fixed focus:top-2 focus:left-2 focus:z-50 focus:bg-raised focus:p-2">
        Skip to the content
      </a>
      <aside
        className={clsx(
          'fixed inset-y-0 left-0 z-30 flex w-56 shrink-0 flex-col overflow-y-auto border-r border-line bg-paper md:sticky md:top-0 md:h-screen md:translate-x-0',
          menu ? 'translate-x-0' : 'max-md:invisible max-md:-translate-x-full',
        )}
      >
        <Link to="/" className="flex items-center gap-2.5 px-4 pt-4 pb-3">
          <img src="/mark.svg" alt="" className="size-7" />
          <span className="min-w-0">
            <span className="block font-head text-lg leading-none font-semibold">Fulvet</span>
            <span className="block truncate text-xs text-muted">{workspace}</span>
          </span>
        </Link>
        <button
          type="button"
          onClick={() => setFinding(true)}
          className="mx-3 mb-3 flex items-center gap-2 rounded border border-line bg-raised px-2.5 py-1.5 text-left text-sm text-muted hover:border-muted"
        >
          <Search size={14} aria-hidden /> <span className="grow">Find</span> <kbd className="font-mono text-xs">Ctrl K</kbd>
        </button>
        <LineColumn user={user} />
        <Below user={user} />
      </aside>
      {menu && (
        <button
          type="button"
          aria-label="Close the menu"
          className="fixed inset-0 z-20 bg-black/30 md:hidden"
          onClick={() => setMenu(false)}
        />
      )}
      <div className="flex min-w-0 grow flex-col">
        <div className="sticky top-0 z-10 flex items-center gap-2 border-b border-line bg-paper px-2 py-1.5 md:hidden">
          <Button kind="quiet" aria-label={menu ? 'Close the menu' : 'Open the menu'} onClick={() => setMenu(!menu)}>
            {menu ? <X size={18} /> : <Menu size={18} />}
          </Button>
          <span className="font-head text-lg font-semibold">Fulvet</span>
          <Button kind="quiet" aria-label="Find" className="ml-auto" onClick={() => setFinding(true)}>
            <Search size={18} />
          </Button>
        </div>
        <main id="content" tabIndex={-1} className="min-w-0 grow outline-none">
          {children}
        </main>
      </div>
      <Suspense fallback={null}>
        {docket.openId !== null && <DocketPanel id={docket.openId} user={user} onClose={docket.close} />}
        {finding && <CommandList user={user} onClose={() => setFinding(false)} />}
        {keys && <KeyList onClose={() => setKeys(false)} />}
      </Suspense>
    </div>
  );
}

/** How many requests of colleagues and emergency readings wait for the reader. */
function Asked() {
  const requests = useRequests();
  const open = requests.data?.toMe.filter((item) => item.state === 'open').length ?? 0;
  if (open === 0) return null;
  return (
    <span
      className="ml-1 rounded-full bg-spruce px-1.5 text-xs font-semibold text-onspruce tabular-nums"
      aria-label={`${open} ask for access`}
    >
      {open}
    </span>
  );
}

/** The smaller part of the column, below the line. */
function Below({ user }: { user: User }) {
  const client = useQueryClient();
  const link = ({ isActive }: { isActive: boolean }): string =>
    clsx('block rounded px-2.5 py-px text-sm hover:bg-sunk', isActive && 'bg-raised font-semibold');
  const signOut = async (): Promise<void> => {
    await call('signOut').catch(() => undefined);
    client.clear();
    await client.invalidateQueries();
    window.location.assign('/');
  };
  return (
    <div className="mt-2 flex grow flex-col border-t border-line px-3 pt-1.5 pb-2">
      <nav aria-label="More">
        {user.role === 'admin' && (
          <>
            <NavLink to="/desk" className={link}>
              Sorting desk
            </NavLink>
            <NavLink to="/my-mail" className={link}>
              My mail
            </NavLink>
          </>
        )}
        {user.role !== 'viewer' && (
          <NavLink to="/strangers" className={link}>
            Unknown people
          </NavLink>
        )}
        <NavLink to="/register" className={link}>
          All mail
        </NavLink>
        {user.role === 'admin' && (
          <>
            <NavLink to="/trials" className={link}>
              Trials
            </NavLink>
            <NavLink to="/kept-lists" className={link}>
              Address lists
            </NavLink>
            <NavLink to="/tuning" className={link}>
              Tuning
            </NavLink>
          </>
        )}
        <NavLink to="/sharing" className={link}>
          Sharing <Asked />
        </NavLink>
        <NavLink to="/log" className={link}>
          Log
        </NavLink>
        <NavLink to="/undo" className={link}>
          Undo
        </NavLink>
        <NavLink to="/team" className={link}>
          Team
        </NavLink>
        {user.role === 'admin' && (
          <>
            <NavLink to="/who-we-are" className={link}>
              Who we are
            </NavLink>
            <NavLink to="/workspace" className={link}>
              Workspace
            </NavLink>
          </>
        )}
      </nav>
      <div className="mt-auto pt-2 text-sm">
        <NavLink to="/account" className={link}>
          <span className="block leading-tight">{user.name}</span>
          <span className="block text-xs font-normal text-muted">{user.role} · your account</span>
        </NavLink>
        <button type="button" className="rounded px-2.5 py-px text-muted hover:bg-sunk" onClick={() => void signOut()}>
          Sign out
        </button>
      </div>
    </div>
  );
}
