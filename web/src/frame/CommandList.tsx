import type { User } from '@fulvet/contract';
import { Dialog } from 'radix-ui';
import { useDeferredValue, useEffect, useRef, useState } from 'react';
import { useNavigate } from 'react-router';
import { useSearch } from '../api/queries';
import { OutcomeMark } from '../parts/OutcomeMark';
import { KIND_LABELS, nameOf, recordPath } from '../parts/people';
import { SearchList } from '../parts/SearchList';
import type { SearchGroup } from '../parts/SearchList';
import { pagesToFind } from './pages';
import { common } from '../parts/words';
import { commandList as texts } from './panel/words';

interface Entry {
  key: string;
  group: string;
  label: string;
  detail: string;
  to: string;
  outcome?: Parameters<typeof OutcomeMark>[0]['outcome'];
}

/** One field that finds everything: people, companies, deals, emails and pages. */
export default function CommandList({
  user,
  takeTyped,
  onClose,
}: {
  user: User;
  /** What was typed since it was asked for; the field has the keyboard from here on. */
  takeTyped: () => string;
  onClose: () => void;
}) {
  const [text, setText] = useState('');
  const isTaken = useRef(false);
  useEffect(() => {
    if (isTaken.current) return;
    isTaken.current = true;
    const typed = takeTyped();
    if (typed !== '') setText(typed);
  }, [takeTyped]);
  const go = useNavigate();
  const asked = useDeferredValue(text.trim());
  const found = useSearch(asked);
  const entries = entriesFor(text.trim(), asked.length > 1 ? found.data : undefined, user);
  const choose = (entry: Entry): void => {
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
          <Dialog.Title className="sr-only">{common.find}</Dialog.Title>
          <SearchList
            large
            label={texts.findPeopleCompaniesDeals}
            placeholder={texts.peopleCompaniesDealsWords}
            text={text}
            onText={setText}
            groups={groupsOf(entries, choose)}
            nothing={found.isFetching ? common.looking : texts.nothingFoundTryFewer}
          />
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

function groupsOf(entries: readonly Entry[], choose: (entry: Entry) => void): SearchGroup[] {
  return [...new Set(entries.map(({ group }) => group))].map((name) => ({
    name,
    choices: entries
      .filter(({ group }) => group === name)
      .map((entry) => ({
        key: `${name} ${entry.key}`,
        choose: () => choose(entry),
        content: (
          <span className="flex items-center gap-2.5">
            {entry.outcome !== undefined && <OutcomeMark outcome={entry.outcome} />}
            <span className="truncate">{entry.label}</span>
            <span className="ml-auto max-w-[50%] truncate text-sm text-muted">{entry.detail}</span>
          </span>
        ),
      })),
  }));
}

function entriesFor(text: string, found: ReturnType<typeof useSearch>['data'], user: User): Entry[] {
  const pages = pagesToFind(user.role)
    .filter(({ title }) => title.toLowerCase().includes(text.toLowerCase()))
    .map(({ path, title }): Entry => ({ key: path, group: texts.pages, label: title, detail: '', to: path }));
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
    group: texts.inAll(found.emailTotal, found.isMore),
    label: email.content?.subject || common.noSubject,
    detail: email.content?.from ? nameOf(email.content.from) : '',
    to: `/all-mail?text=${encodeURIComponent(text)}&decision=${email.id}`,
    outcome: email.outcome,
  }));
  const all = {
    key: 'all',
    group: texts.search,
    label: texts.allThatIsFound(text),
    detail: '',
    to: `/search?text=${encodeURIComponent(text)}`,
  };
  return [...records, ...emails, ...(records.length + emails.length > 0 ? [all] : []), ...pages];
}
