import type { EmailRow, User } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { useEffect } from 'react';
import { useEmail, useEmails } from '../api/queries';
import { BodyText } from '../emails/BodyText';
import { Filings } from '../emails/Filings';
import { Button, Empty, Purpose, Trouble, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { Moment } from '../parts/Moment';
import { OUTCOME_LABELS, OutcomeMark } from '../parts/OutcomeMark';
import { nameOf } from '../parts/people';
import { useAddressBar } from '../parts/useAddressBar';
import { RepairBar } from '../repairs/RepairBar';
import { Concerned } from './PeopleOfEmail';
import { OwnKeepOuts } from '../decision/OwnKeepOuts';
import { common } from '../parts/words';
import { myMailPage as texts } from './words';

const ALL = { mine: 'yes' };
const COMING_IN = { mine: 'yes', outcome: 'filed,waiting,unfiled,sealed,undecided' };

/**
 * The reader's own recent mail, each email with its outcome, and beside the one at hand whom it concerns in the records. As narrow as a margin
 * it stands beside any mail program, opened by a link with a Message-ID.
 */
export default function MyMailPage({ user }: { user: User }) {
  const [params, set] = useAddressBar();
  const text = params.get('email') ?? '';
  const chosen = /^\d+$/.test(text) ? Number(text) : null;
  const message = params.get('message') ?? '';
  const withKeptOut = params.get('kept-out') === 'yes';
  const emails = useEmails(withKeptOut ? ALL : COMING_IN);
  const rows = emails.data?.pages.flatMap((page) => page.emails) ?? [];
  const found = useQuery({
    ...asked('findByMessageId', { id: message }),
    enabled: message !== '',
    retry: false,
  });
  const foundId = found.data?.id;
  useEffect(() => {
    if (foundId !== undefined) set({ message: '', email: String(foundId) });
  }, [foundId, set]);
  const current = chosen ?? (message === '' ? (rows[0]?.id ?? null) : null);
  return (
    <div className="grid gap-x-6 lg:h-screen lg:grid-cols-[minmax(0,1fr)_minmax(20rem,26rem)] lg:overflow-hidden">
      <div className={clsx('min-w-0 px-3 pt-4 pb-6 lg:overflow-y-auto', chosen !== null && 'max-lg:hidden')}>
        <div className="mb-2 flex items-baseline justify-between gap-3">
          <div>
            <h1 className="text-xl leading-tight">{texts.myMail}</h1>
            <Purpose>{texts.theEmailOfYour}</Purpose>
          </div>
          <label className="flex items-center gap-1.5 text-sm text-muted">
            <input type="checkbox" checked={withKeptOut} onChange={(event) => set({ 'kept-out': event.target.checked ? 'yes' : '' })} />{' '}
            {texts.whatWasKeptOut}
          </label>
        </div>
        {emails.isPending && <Waiting what={texts.fetchingYourMail} />}
        <Trouble error={emails.error ?? found.error} />
        {emails.data && rows.length === 0 && <Empty title={texts.noMailOfYours}>{texts.connectYourMailboxUnder}</Empty>}
        <List rows={rows} current={current} onOpen={(id) => set({ email: String(id) })} />
        <OwnKeepOuts />
        {emails.hasNextPage && (
          <Button className="mt-2" disabled={emails.isFetchingNextPage} onClick={() => void emails.fetchNextPage()}>
            {texts.earlierMail}
          </Button>
        )}
      </div>
      {current !== null && (
        <div
          className={clsx(
            'min-w-0 border-line bg-raised px-3 pt-4 pb-10 lg:overflow-y-auto lg:border-l',
            chosen === null && 'max-lg:hidden',
          )}
        >
          <Button kind="quiet" className="mb-2 lg:hidden" onClick={() => set({ email: '' })}>
            {texts.allMyMail}
          </Button>
          <Beside key={current} id={current} user={user} />
        </div>
      )}
    </div>
  );
}

/** Arrows move, Enter opens. */
function List({ rows, current, onOpen }: { rows: readonly EmailRow[]; current: number | null; onOpen: (id: number) => void }) {
  const move = (step: number): void => {
    const at = rows.findIndex((row) => row.id === current);
    const next = rows[Math.max(0, Math.min(rows.length - 1, at + step))];
    if (!next) return;
    onOpen(next.id);
    document.getElementById(`mine-${next.id}`)?.focus();
  };
  return (
    <ul
      aria-label={texts.myEmails}
      onKeyDown={(event) => {
        if (event.key === 'ArrowDown') move(1);
        else if (event.key === 'ArrowUp') move(-1);
        else return;
        event.preventDefault();
      }}
    >
      {rows.map((email) => (
        <li
          key={email.id}
          className={clsx('border-b border-line', email.id === current && 'bg-raised shadow-[inset_3px_0_0_var(--focus)]')}
        >
          <button
            id={`mine-${email.id}`}
            type="button"
            aria-current={email.id === current ? 'true' : undefined}
            className="block w-full px-2 py-1.5 text-left hover:bg-sunk"
            onClick={() => onOpen(email.id)}
          >
            <span className="flex items-center gap-2">
              <OutcomeMark outcome={email.outcome} />
              <span className="min-w-0 grow truncate font-medium">{withWhom(email)}</span>
              <Moment at={email.at} className="tabular text-sm whitespace-nowrap text-muted" />
            </span>
            <span className="block truncate pl-5">{email.content ? email.content.subject || common.noSubject : 'kept out'}</span>
          </button>
          {email.filings.length > 0 && (
            <div className="px-2 pb-1.5 pl-7">
              <Filings filings={email.filings} most={3} />
            </div>
          )}
        </li>
      ))}
    </ul>
  );
}

function withWhom(email: EmailRow): string {
  const { content } = email;
  if (!content) return email.externalDomains.join(', ') || texts.amongOurselves;
  if (email.direction !== 'sent') return content.from ? nameOf(content.from) : texts.noSender;
  const outside = content.to.filter((item) => !item.ours);
  return texts.to((outside.length > 0 ? outside : content.to).map(nameOf).join(', '));
}

function Beside({ id, user }: { id: number; user: User }) {
  const email = useEmail(id);
  if (email.isPending) return <Waiting what={texts.lookingUp} />;
  if (email.isError) return <Trouble error={email.error} />;
  const { data } = email;
  return (
    <>
      <h2 className="text-lg leading-snug break-words">{data.content ? data.content.subject || common.noSubject : texts.keptOutItsText}</h2>
      <p className="mb-2 flex items-center gap-2 text-sm">
        <OutcomeMark outcome={data.outcome} label={false} /> <strong>{OUTCOME_LABELS[data.outcome ?? 'undecided']}</strong>
        <span className="text-muted">
          · <Moment at={data.at} />
        </span>
      </p>
      {data.filings.length > 0 && <Filings filings={data.filings} />}
      <RepairBar email={data} user={user} />
      <Concerned email={data} user={user} />
      {data.content && (
        <section aria-label={common.theEmail} className="mt-4 border-t border-line pt-3 max-lg:hidden">
          <BodyText parts={data.content.parts} />
        </section>
      )}
    </>
  );
}
