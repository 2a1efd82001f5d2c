import type { OutgoingRow, User } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Button, Empty, Page, Trouble } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { exactMoment, Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { DataTable } from '../parts/table/DataTable';
import type { Column } from '../parts/table/useColumns';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { useNarrow } from '../parts/useNarrow';
import { common } from '../parts/words';
import { BulkSends } from './bulk/BulkSends';
import { openDraft } from './openDrafts';
import { useOutgoingList } from './queries';
import { WriteButton } from './WriteButtons';
import { composer, outgoingPage as words, sendBar, sendingStates } from './words';

const dueTime = new Intl.DateTimeFormat(undefined, { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit' });
const NEEDS: ReadonlySet<OutgoingRow['state']> = new Set(['unclear', 'refused', 'bounced']);

/** Emails that the reader writes or has sent from here, what needs them first. */
export default function OutgoingPage({ user }: { user: User }) {
  const list = useOutgoingList();
  const narrow = useNarrow();
  const emails = list.data?.emails ?? [];
  const needing = emails.filter(({ state }) => NEEDS.has(state)).length;
  return (
    <Page wide title={words.outgoing} purpose={words.emailsThatYouWrite} aside={<WriteButton record={null} to={[]} />}>
      <Trouble error={list.error} />
      <BulkSends />
      {list.data && emails.length === 0 && <Empty title={words.noEmailYet}>{words.writeOneFromARecord}</Empty>}
      {needing > 0 && (
        <p className="mb-2 font-medium text-ochre" role="status">
          {words.emailsNeedYou(needing)}
        </p>
      )}
      {emails.length > 0 &&
        (narrow ? (
          <ul className="divide-y divide-line border-y border-line">
            {emails.map((email) => (
              <li key={email.id} className="space-y-1 py-2">
                <Subject email={email} />
                <div className="flex items-baseline justify-between gap-2 text-sm">
                  <State email={email} />
                  <When email={email} />
                </div>
                <Acts email={email} user={user} />
              </li>
            ))}
          </ul>
        ) : (
          <DataTable
            name="outgoing"
            label={words.outgoing}
            columns={columnsFor(user)}
            rows={emails}
            rowKey={({ id }) => String(id)}
            least="52rem"
          />
        ))}
    </Page>
  );
}

const columnsFor = (user: User): readonly Column<OutgoingRow>[] => [
  { key: 'subject', label: words.subject, width: 'minmax(16rem,2fr)', isFixed: true, cell: (email) => <Subject email={email} /> },
  { key: 'state', label: words.state, width: 'minmax(12rem,1.4fr)', cell: (email) => <State email={email} /> },
  { key: 'when', label: words.when, width: '8rem', cell: (email) => <When email={email} /> },
  { key: 'acts', label: '', width: 'minmax(15rem,1fr)', end: true, cell: (email) => <Acts email={email} user={user} /> },
];

function Subject({ email: { subject, to } }: { email: OutgoingRow }) {
  return (
    <span className="block min-w-0 py-1">
      <span className="block truncate font-medium">{subject || common.noSubject}</span>
      <span className="block truncate text-sm text-muted">{to.map(({ name, address }) => name || address).join(', ')}</span>
    </span>
  );
}

function State({ email: { state, problem, measure } }: { email: OutgoingRow }) {
  return (
    <span className="block min-w-0 py-1">
      <span className={clsx('block', NEEDS.has(state) && 'font-medium text-ochre')}>{sendingStates[state]}</span>
      {problem !== '' && <span className="block text-sm wrap-anywhere text-muted">{problem}</span>}
      {measure && <span className="block text-sm text-muted">{words.openings(measure.opened.times)}</span>}
    </span>
  );
}

function When({ email: { state, dueAt, sentAt, changedAt } }: { email: OutgoingRow }) {
  if (state === 'due' && dueAt !== null)
    return (
      <time className="tabular block py-1" dateTime={dueAt} title={exactMoment(dueAt)}>
        {dueTime.format(new Date(dueAt))}
      </time>
    );
  return <Moment at={sentAt ?? changedAt} className="tabular block py-1 whitespace-nowrap text-muted" />;
}

/** What can be done about it. */
function Acts({ email, user }: { email: OutgoingRow; user: User }) {
  const { id, state, emailId } = email;
  const refresh = useRefreshAll();
  const notice = useNotice();
  const decision = useDecisionPanel();
  const act = useMutation({
    mutationFn: (work: () => Promise<unknown>) => work(),
    onSuccess: () => refresh(),
    onError: (error) => notice(error.message),
  });
  const takeBack = async (): Promise<void> => {
    await call('takeBackOutgoing', { id });
    openDraft(user.id, id);
    notice(composer.takenBack);
  };
  const settle = (wasSent: boolean): void => act.mutate(() => call('settleOutgoing', { id, body: { wasSent } }));
  return (
    <span className="flex flex-wrap justify-end gap-1.5 py-1">
      {(state === 'draft' || state === 'refused') && <Button onClick={() => openDraft(user.id, id)}>{words.openDraft}</Button>}
      {state === 'due' && (
        <Button disabled={act.isPending} onClick={() => act.mutate(takeBack)}>
          {words.takeBack}
        </Button>
      )}
      {state === 'unclear' && (
        <>
          <Button disabled={act.isPending} onClick={() => settle(true)}>
            {words.itWasSent}
          </Button>
          <Button disabled={act.isPending} onClick={() => settle(false)}>
            {words.itWasNotSent}
          </Button>
        </>
      )}
      {emailId !== null && <Button onClick={() => decision.open(emailId)}>{words.showEmail}</Button>}
      {(state === 'draft' || state === 'refused' || state === 'sent' || state === 'bounced') && (
        <Button kind="quiet" disabled={act.isPending} onClick={() => act.mutate(() => call('discardOutgoing', { id }))}>
          {state === 'draft' ? sendBar.discardDraft : words.removeFromList}
        </Button>
      )}
    </span>
  );
}
