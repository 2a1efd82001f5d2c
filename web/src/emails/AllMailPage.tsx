import type { EmailRow, User } from '@fulvet/contract';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { KeyboardEvent } from 'react';
import { useNavigate } from 'react-router';
import { useEmails } from '../api/queries';
import { rowHeight } from '../parts/display';
import { useNarrow } from '../parts/useNarrow';
import { isTyping } from '../parts/isTyping';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { Button, Empty, Purpose, Trouble, Waiting } from '../parts/basics';
import { countedEmails } from '../parts/numbers';
import { recordPath } from '../parts/people';
import { useAddressBar } from '../parts/useAddressBar';
import type { RepairVerb, Subject } from '../repairs/useRepairKeys';
import { useRepairKeys } from '../repairs/useRepairKeys';
import { AllMailFilters } from './AllMailFilters';
import { AllMailHeads, MOST_CHOSEN } from './AllMailHeads';
import { EmailLine } from './EmailLine';
import { KeepOutDialog } from '../decision/KeepOutDialog';
import { common } from '../parts/words';
import { allMailPage as words } from './words';

/** Height of a row in pixels, where rows are compact. */
const ROW = 36;
/** The same with two lines. */
const NARROW_ROW = 54;
const FILTERS = [
  'outcome',
  'mailbox',
  'person',
  'domain',
  'direction',
  'mailClass',
  'from',
  'until',
  'text',
  'conversation',
  'problems',
  'rule',
  'applied',
  'corrected',
  'answered',
  'opened',
] as const;

/** The register of all emails; filters live in the address bar. */
export default function Register({ user }: { user: User }) {
  const [params, setValues] = useAddressBar();
  const filter = useMemo(
    () => Object.fromEntries(FILTERS.flatMap((name) => (params.get(name) ? [[name, params.get(name) ?? '']] : []))),
    [params],
  );
  const emails = useEmails(filter);
  const rows = useMemo(() => rowsIn(emails.data), [emails.data]);
  const { total = 0, isMore = false } = emails.data?.pages[0] ?? {};
  const set = (name: string, value: string): void => setValues({ [name]: value });
  const clear = (): void => setValues(Object.fromEntries([...params.keys()].map((name) => [name, ''])));
  return (
    <div className="flex h-screen flex-col max-md:h-[calc(100vh-3rem)]">
      <header className="flex flex-wrap items-end gap-x-6 gap-y-1 px-3 pt-4 pb-2">
        <div>
          <h1 className="text-xl">{words.allMail}</h1>
          <Purpose>{words.everyEmailThatYou}</Purpose>
        </div>
        <p className="tabular pb-0.5 text-muted" role="status">
          {emails.isPending ? words.counting : countedEmails(total, isMore)}
        </p>
      </header>
      <AllMailFilters filter={filter} set={set} clear={clear} />
      {emails.isError && (
        <div className="px-3">
          <Trouble error={emails.error} />
        </div>
      )}
      {emails.isPending && <Waiting what={words.fetchingEmails} />}
      {!emails.isPending && rows.length === 0 && !emails.isError && (
        <Empty title={Object.keys(filter).length > 0 ? words.noEmailFits : words.noMailYet}>
          {Object.keys(filter).length > 0 ? common.removeAFilterTo : words.importAMailboxFile}
        </Empty>
      )}
      {rows.length > 0 && (
        <EmailList
          rows={rows}
          total={total}
          isMore={isMore}
          user={user}
          more={() => void (emails.hasNextPage && !emails.isFetchingNextPage && emails.fetchNextPage())}
          all={async () => {
            let { data, hasNextPage } = emails;
            while (hasNextPage && rowsIn(data).length < MOST_CHOSEN) ({ data, hasNextPage } = await emails.fetchNextPage());
            return rowsIn(data).slice(0, MOST_CHOSEN);
          }}
        />
      )}
    </div>
  );
}

const rowsIn = (data: { pages: { emails: EmailRow[] }[] } | undefined): EmailRow[] => data?.pages.flatMap((page) => page.emails) ?? [];

function EmailList({
  rows,
  total,
  isMore,
  user,
  more,
  all,
}: {
  rows: EmailRow[];
  total: number;
  isMore: boolean;
  user: User;
  more: () => void;
  /** Loads the further pages, too, as far as emails can be chosen. */
  all: () => Promise<EmailRow[]>;
}) {
  const box = useRef<HTMLDivElement>(null);
  const [position, setAt] = useState(0);
  // Filters may leave fewer rows than there were.
  const at = Math.min(position, Math.max(0, rows.length - 1));
  const [keepOut, setKeepOut] = useState<string | null>(null);
  const [chosen, setChosen] = useState<ReadonlySet<number>>(new Set());
  const docket = useDecisionPanel();
  const go = useNavigate();
  const subject = useMemo((): Subject | null => {
    const selected = rows.filter((row) => chosen.has(row.id));
    if (selected.length === 0 || user.role === 'viewer' || docket.openId !== null) return null;
    return { emails: selected.map((row) => row.id), filings: filingsIn(selected), owned: true };
  }, [rows, chosen, user.role, docket.openId]);
  const repairs = useRepairKeys(subject);
  const toggle = (from: number, to: number, take: boolean): void =>
    setChosen((all) => {
      const next = new Set(all);
      for (const row of rows.slice(Math.min(from, to), Math.max(from, to) + 1))
        if (take) next.add(row.id);
        else next.delete(row.id);
      return next;
    });
  const height = rowHeight(useNarrow() ? NARROW_ROW : ROW);
  const virtual = useVirtualizer({ count: rows.length, getScrollElement: () => box.current, estimateSize: () => height, overscan: 12 });
  const shown = virtual.getVirtualItems();
  const last = shown.at(-1)?.index ?? 0;
  useEffect(() => {
    if (last >= rows.length - 20) more();
  }, [last, rows.length, more]);
  const moveTo = (next: number): void => {
    const bounded = Math.max(0, Math.min(rows.length - 1, next));
    setAt(bounded);
    virtual.scrollToIndex(bounded);
    const row = rows[bounded];
    if (docket.openId !== null && row) docket.open(row.id);
  };
  const onKey = (event: KeyboardEvent): void => {
    if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey) return;
    const row = rows[at];
    const outsider = row
      ? ((row.content ? [row.content.from, ...row.content.to].find((item) => item && !item.ours)?.address : undefined) ??
        row.externalDomains[0])
      : undefined;
    const filed = row?.filings[0];
    if ((event.key === 'ArrowDown' || event.key === 'ArrowUp') && event.shiftKey) {
      const next = Math.max(0, Math.min(rows.length - 1, at + (event.key === 'ArrowDown' ? 1 : -1)));
      toggle(at, next, true);
      moveTo(next);
    } else if (event.key === 'ArrowDown') moveTo(at + 1);
    else if (event.key === 'ArrowUp') moveTo(at - 1);
    else if (event.key === ' ' && row) toggle(at, at, !chosen.has(row.id));
    else if (event.key === 'Escape' && chosen.size > 0) setChosen(new Set());
    else if (event.key.toLowerCase() === 'd' && row) docket.open(row.id);
    else if (event.key === 'PageDown') moveTo(at + 15);
    else if (event.key === 'PageUp') moveTo(at - 15);
    else if (event.key === 'Home') moveTo(0);
    else if (event.key === 'End') moveTo(rows.length - 1);
    else if (event.key === 'Enter' && row) docket.open(row.id);
    else if (event.key.toLowerCase() === 'o' && outsider && user.role === 'admin') setKeepOut(outsider);
    else if (event.key.toLowerCase() === 'h' && filed) void go(recordPath(filed.kind, filed.id));
    else return;
    event.preventDefault();
  };
  return (
    <>
      <AllMailHeads
        chosen={
          user.role === 'viewer' ? null : chosen.size === 0 ? 'none' : chosen.size >= Math.min(rows.length, MOST_CHOSEN) ? 'all' : 'some'
        }
        onChoose={(take) => void (take ? all().then((found) => setChosen(new Set(found.map(({ id }) => id)))) : setChosen(new Set()))}
      />
      <div
        ref={box}
        tabIndex={0}
        role="grid"
        aria-multiselectable
        aria-rowcount={isMore ? -1 : total}
        aria-label={common.emails}
        aria-activedescendant={rows[at] ? `email-${rows[at].id}` : undefined}
        className="min-h-0 grow overflow-y-auto border-t border-line outline-offset-[-2px]"
        onKeyDown={onKey}
      >
        <div style={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {shown.map((item) => {
            const email = rows[item.index];
            if (!email) return null;
            return (
              <div
                key={email.id}
                id={`email-${email.id}`}
                role="row"
                aria-selected={chosen.has(email.id)}
                aria-rowindex={item.index + 1}
                style={{ position: 'absolute', top: 0, left: 0, right: 0, height, transform: `translateY(${item.start}px)` }}
              >
                <div role="gridcell" className="h-full">
                  <EmailLine
                    email={email}
                    active={item.index === at || email.id === docket.openId}
                    chosen={chosen.has(email.id)}
                    onChoose={
                      user.role === 'viewer'
                        ? null
                        : (range) => {
                            toggle(range ? at : item.index, item.index, !chosen.has(email.id));
                            setAt(item.index);
                          }
                    }
                    onOpen={() => {
                      setAt(item.index);
                      docket.open(email.id);
                    }}
                  />
                </div>
              </div>
            );
          })}
        </div>
      </div>
      {keepOut && <KeepOutDialog address={keepOut} onClose={() => setKeepOut(null)} />}
      {subject && <Chosen subject={subject} open={repairs.open} onClear={() => setChosen(new Set())} />}
      {repairs.dialog}
    </>
  );
}

/** Records under which any of the emails stand, each once. */
function filingsIn(rows: readonly EmailRow[]): EmailRow['filings'] {
  const byKey = new Map(rows.flatMap((row) => row.filings.map((filing) => [`${filing.kind}:${filing.id}`, filing] as const)));
  return [...byKey.values()];
}

/** What can be done with all that are chosen. */
function Chosen({ subject, open, onClear }: { subject: Subject; open: (verb: RepairVerb) => void; onClear: () => void }) {
  return (
    <div
      role="toolbar"
      aria-label={words.withTheChosenEmails}
      className="flex flex-wrap items-center gap-2 border-t border-line bg-raised px-3 py-2"
    >
      <span className="tabular mr-auto font-medium">{words.emailChosen(subject.emails.length)}</span>
      <Button onClick={() => open('file')}>{words.fileUnderF}</Button>
      <Button onClick={() => open('takeOff')}>{words.removeFromRecordT}</Button>
      <Button onClick={() => open('start')}>{words.createRecordsN}</Button>
      <Button onClick={() => open('each')}>{words.createOneForEach}</Button>
      <Button onClick={() => open('seal')}>{words.sealS}</Button>
      <Button kind="quiet" onClick={onClear}>
        {words.chooseNone}
      </Button>
    </div>
  );
}
