import type { User } from '@fulvet/contract';
import { Dialog } from 'radix-ui';
import { useDeferredValue, useId, useState } from 'react';
import { useNavigate } from 'react-router';
import { useSearch } from '../api/queries';
import { OutcomeMark } from '../parts/OutcomeMark';
import { clsx } from '../parts/clsx';
import { KIND_LABELS, nameOf, recordPath } from '../parts/people';

interface Entry {
  key: string;
  group: string;
  label: string;
  detail: string;
  to: string;
  outcome?: Parameters<typeof OutcomeMark>[0]['outcome'];
}

const PAGES: Entry[] = [
  ['Home', '/'],
  ['Mailboxes and imports', '/mailboxes'],
  ['Connect a mailbox', '/mailboxes/connect'],
  ['Connect many mailboxes', '/mailboxes/many'],
  ['Keep out', '/keep-out'],
  ['Take in', '/take-in'],
  ['Match', '/match'],
  ['Create', '/create'],
  ['Share', '/share'],
  ['Trials', '/trials'],
  ['Address lists', '/kept-lists'],
  ['Tuning', '/tuning'],
  ['Who we are', '/who-we-are'],
  ['Versions', '/versions'],
  ['Accounts', '/histories/account'],
  ['Contacts', '/histories/contact'],
  ['Leads', '/histories/lead'],
  ['Deals', '/histories/deal'],
  ['My mail', '/my-mail'],
  ['Sorting desk', '/desk'],
  ['Unknown people', '/strangers'],
  ['Duplicates among contacts', '/duplicates/contact'],
  ['Duplicates among accounts', '/duplicates/account'],
  ['Deals by stage', '/histories/deal?as=board'],
  ['Fields and stages', '/record-setup/deal'],
  ['All mail', '/register'],
  ['Sharing', '/sharing'],
  ['Log', '/log'],
  ['Team', '/team'],
  ['Workspace settings', '/workspace'],
  ['Undo', '/undo'],
  ['Your account', '/account'],
].map(([label = '', to = '']) => ({ key: to, group: 'Pages', label, detail: '', to }));
const REP_PAGES = new Set([
  '/',
  '/mailboxes',
  '/mailboxes/connect',
  '/histories/account',
  '/histories/contact',
  '/histories/lead',
  '/histories/deal',
  '/my-mail',
  '/desk',
  '/strangers',
  '/duplicates/contact',
  '/duplicates/account',
  '/histories/deal?as=board',
  '/register',
  '/sharing',
  '/log',
  '/team',
  '/undo',
  '/account',
]);

/** One field that finds everything: people, companies, deals, emails and pages. */
export default function CommandList({ user, onClose }: { user: User; onClose: () => void }) {
  const [text, setText] = useState('');
  const [at, setAt] = useState(0);
  const go = useNavigate();
  const listId = useId();
  const asked = useDeferredValue(text.trim());
  const found = useSearch(asked);
  const entries = entriesFor(text.trim(), asked.length > 1 ? found.data : undefined, user);
  const choose = (entry: Entry | undefined): void => {
    if (!entry) return;
    onClose();
    void go(entry.to);
  };
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-black/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className="fixed top-[9vh] left-1/2 z-50 flex max-h-[76vh] w-[min(94vw,40rem)] -translate-x-1/2 flex-col rounded-md border border-line bg-raised shadow-2xl"
        >
          <Dialog.Title className="sr-only">Find</Dialog.Title>
          <input
            autoFocus
            role="combobox"
            aria-expanded
            aria-controls={listId}
            aria-activedescendant={entries[at] ? `${listId}-${at}` : undefined}
            aria-label="Find people, companies, deals, emails and pages"
            placeholder="People, companies, deals, words of an email …"
            className="w-full rounded-t-md border-b border-line bg-transparent px-4 py-3 text-lg outline-none"
            value={text}
            onChange={(event) => {
              setText(event.target.value);
              setAt(0);
            }}
            onKeyDown={(event) => {
              if (event.key === 'ArrowDown') setAt(Math.min(entries.length - 1, at + 1));
              else if (event.key === 'ArrowUp') setAt(Math.max(0, at - 1));
              else if (event.key === 'Enter') choose(entries[at]);
              else return;
              event.preventDefault();
            }}
          />
          <ul id={listId} role="listbox" aria-label="Found" className="overflow-y-auto p-1.5">
            {entries.map((entry, position) => (
              <li key={`${entry.group} ${entry.key}`}>
                {entry.group !== entries[position - 1]?.group && <div className="px-2.5 pt-2 pb-1 text-xs text-muted">{entry.group}</div>}
                <div
                  id={`${listId}-${position}`}
                  role="option"
                  aria-selected={position === at}
                  className={clsx('flex items-center gap-2.5 rounded px-2.5 py-1.5', position === at && 'bg-sunk')}
                  onMouseMove={() => setAt(position)}
                  onClick={() => choose(entry)}
                >
                  {entry.outcome !== undefined && <OutcomeMark outcome={entry.outcome} />}
                  <span className="truncate">{entry.label}</span>
                  <span className="ml-auto max-w-[50%] truncate text-sm text-muted">{entry.detail}</span>
                </div>
              </li>
            ))}
            {entries.length === 0 && (
              <li className="px-3 py-6 text-center text-muted">
                {found.isFetching ? 'Looking …' : 'Nothing found. Try fewer or other words.'}
              </li>
            )}
          </ul>
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function entriesFor(text: string, found: ReturnType<typeof useSearch>['data'], user: User): Entry[] {
  const pages = PAGES.filter(
    (page) => (user.role === 'admin' || REP_PAGES.has(page.to)) && page.label.toLowerCase().includes(text.toLowerCase()),
  );
  if (!found || text.length < 2) return pages;
  const records = found.records.slice(0, 14).map((record) => ({
    key: `${record.kind}${record.id}`,
    group: KIND_LABELS[record.kind].many,
    label: record.name,
    detail: record.detail,
    to: recordPath(record.kind, record.id),
  }));
  const emails = found.emails.slice(0, 8).map((email) => ({
    key: `e${email.id}`,
    group: `Emails, ${found.emailTotal} in all`,
    label: email.content?.subject || '(no subject)',
    detail: email.content?.from ? nameOf(email.content.from) : '',
    to: `/register?text=${encodeURIComponent(text)}&docket=${email.id}`,
    outcome: email.outcome,
  }));
  const all = {
    key: 'all',
    group: 'Search',
    label: `All that is found for “${text}”`,
    detail: '',
    to: `/search?text=${encodeURIComponent(text)}`,
  };
  return [...records, ...emails, ...(records.length + emails.length > 0 ? [all] : []), ...pages];
}
