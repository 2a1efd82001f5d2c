import type { User } from '@fulvet/contract';
import { useQueryClient } from '@tanstack/react-query';
import { ChevronRight, CircleQuestionMark, LogOut, Search } from 'lucide-react';
import { useState } from 'react';
import { Link, NavLink, useLocation } from 'react-router';
import { call } from '../api/call';
import { clsx } from '../parts/clsx';
import { useRequests } from '../sharing/queries';
import { GROUPS, pagesOf } from './pages';
import type { PageShape } from './pages';
import { shortSteps, StepColumn } from './StepColumn';
import { common } from '../parts/words';
import { column as words } from './words';

/** The column at the left: the steps of the mail, then the other pages in groups, then the reader's account. */
export function Column({
  user,
  workspace,
  shown,
  onFind,
  onHelp,
}: {
  user: User;
  workspace: string;
  shown: boolean;
  onFind: () => void;
  onHelp: () => void;
}) {
  return (
    <aside
      className={clsx(
        'fixed inset-y-0 left-0 z-30 flex w-56 shrink-0 flex-col border-r border-line bg-paper md:sticky md:top-0 md:h-screen md:translate-x-0',
        shown ? 'translate-x-0' : 'max-md:invisible max-md:-translate-x-full',
      )}
    >
      <Link to="/" className="flex items-center gap-2.5 px-4 pt-3.5 pb-2.5">
        <img src="/mark.svg" alt="" className="size-7" />
        <span className="min-w-0">
          <span className="block font-head text-lg leading-none font-semibold">{common.fulvet}</span>
          <span className="block truncate text-xs text-muted">{workspace}</span>
        </span>
      </Link>
      <div className="mx-3 mb-2 flex gap-1.5">
        <button
          type="button"
          onClick={onFind}
          className="flex min-h-8 min-w-0 grow items-center gap-2 rounded border border-line bg-raised px-2.5 py-1 text-left text-sm text-muted hover:border-muted"
        >
          <Search size={14} aria-hidden /> <span className="grow">{common.find}</span> <kbd className="font-mono text-xs">Ctrl K</kbd>
        </button>
        <button
          type="button"
          aria-label={common.help}
          title={words.helpOnThisPage}
          onClick={onHelp}
          className="flex size-8 shrink-0 items-center justify-center rounded border border-line bg-raised text-muted hover:border-muted max-md:hidden"
        >
          <CircleQuestionMark size={15} aria-hidden />
        </button>
      </div>
      <div className="min-h-0 grow overflow-y-auto">
        <StepColumn user={user} />
        <nav aria-label={words.pages} className="mt-1 border-t border-line px-3 py-1">
          {(Object.keys(GROUPS) as (keyof typeof GROUPS)[]).map((group) => (
            <Group key={group} group={group} user={user} />
          ))}
        </nav>
      </div>
      <Foot user={user} />
    </aside>
  );
}

/** Height of a window, in pixels, in which all groups fit. */
const ROOM_FOR_ALL = 1000;

/** A group of pages under its name, folded away when the reader wants it so; never while it holds the current page. */
function Group({ group, user }: { group: keyof typeof GROUPS; user: User }) {
  const { pathname } = useLocation();
  const above = user.role === 'admin' ? [] : shortSteps(user);
  const pages = pagesOf(group, user.role).filter(({ path }) => !above.includes(path));
  const isHere = pages.some(({ path }) => (path === '/' ? pathname === '/' : pathname.startsWith(path)));
  const [open, setOpen] = useState(() => {
    const kept = window.localStorage.getItem(`fulvet.group.${group}`);
    return kept === null ? group === 'work' || window.innerHeight >= ROOM_FOR_ALL : kept === 'open';
  });
  if (pages.length === 0) return null;
  const isOpen = open || isHere;
  const fold = (next: boolean): void => {
    setOpen(next);
    window.localStorage.setItem(`fulvet.group.${group}`, next ? 'open' : 'folded');
  };
  return (
    <div>
      <button
        type="button"
        aria-expanded={isOpen}
        aria-controls={`pages-${group}`}
        className="flex min-h-7 w-full items-center gap-1 rounded px-1 text-xs font-semibold text-muted hover:bg-sunk"
        onClick={() => fold(!isOpen)}
      >
        <ChevronRight size={12} aria-hidden className={clsx('transition-transform', isOpen && 'rotate-90')} />
        {GROUPS[group]}
      </button>
      <div id={`pages-${group}`} hidden={!isOpen}>
        {isOpen && pages.map((page) => <PageLink key={page.path} page={page} />)}
      </div>
    </div>
  );
}

function PageLink({ page: { path, title } }: { page: PageShape }) {
  return (
    <NavLink
      to={path}
      end={path === '/'}
      className={({ isActive }) =>
        clsx('flex min-h-7 items-center rounded px-2.5 text-sm hover:bg-sunk', isActive && 'bg-raised font-semibold')
      }
    >
      {title}
      {path === '/sharing' && <Asked />}
    </NavLink>
  );
}

/** How many requests of colleagues and emergency readings wait for the reader. */
function Asked() {
  const requests = useRequests();
  const open = requests.data?.toMe.filter((item) => item.state === 'open').length ?? 0;
  if (open === 0) return null;
  return (
    <span
      className="ml-1.5 rounded-full bg-spruce px-1.5 text-xs font-semibold text-onspruce tabular-nums"
      aria-label={words.openRequest(open)}
    >
      {open}
    </span>
  );
}

/** The reader's own account, and the way out. */
function Foot({ user }: { user: User }) {
  const client = useQueryClient();
  const signOut = async (): Promise<void> => {
    await call('signOut').catch(() => undefined);
    client.clear();
    await client.invalidateQueries();
    window.location.assign('/');
  };
  return (
    <div className="flex items-center gap-1 border-t border-line px-3 py-1.5 text-sm">
      <NavLink
        to="/account"
        className={({ isActive }) => clsx('min-w-0 grow rounded px-2.5 py-0.5 hover:bg-sunk', isActive && 'bg-raised font-semibold')}
      >
        <span className="block truncate leading-tight">{user.name}</span>
        <span className="block text-xs font-normal text-muted">{words.yourAccount(user.role)}</span>
      </NavLink>
      <button
        type="button"
        title={words.signOut}
        aria-label={words.signOut}
        className="flex size-8 shrink-0 items-center justify-center rounded text-muted hover:bg-sunk"
        onClick={() => void signOut()}
      >
        <LogOut size={15} aria-hidden />
      </button>
    </div>
  );
}
