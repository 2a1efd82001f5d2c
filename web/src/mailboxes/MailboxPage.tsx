import type { MailboxDetail, User } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { Link, Navigate, useNavigate, useParams } from 'react-router';
import { call } from '../api/call';
import { useMailbox, useTakeMailbox } from './queries';
import { useRefreshAll, useTeam } from '../api/queries';
import { Address, Button, Page, Progress, Trouble, Waiting } from '../parts/basics';
import { DayBars } from '../parts/DayBars';
import { Modal } from '../parts/Modal';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { count, counted, duration } from '../parts/numbers';
import { Form, FormEnd, SelectField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Option } from '../parts/Select';
import { Calendars } from './calendars/Calendars';
import { HealthMark } from './HealthMark';
import { MailboxLog } from './MailboxLog';
import { MailboxSettings } from './MailboxSettings';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { mailboxPage as texts } from './words';

/** One mailbox: how it is doing and since when, what it reads, its log. */
export default function MailboxPage({ user }: { user: User }) {
  const id = Number(useParams().id);
  const mailbox = useMailbox(Number.isInteger(id) && id > 0 ? id : null);
  if (!Number.isInteger(id) || id <= 0) return <Navigate to="/mailboxes" replace />;
  if (mailbox.isPending) return <Waiting what={common.opening} />;
  if (!mailbox.data) return <Page title={common.mailbox}>{<Trouble error={mailbox.error} />}</Page>;
  const { data } = mailbox;
  return (
    <Page
      purpose={texts.whatFulvetReadsFrom}
      title={
        <>
          <Link to="/mailboxes" className="block text-sm font-normal text-muted hover:underline">
            {common.mailboxes}
          </Link>
          <Address>{data.address}</Address>
        </>
      }
      wide
    >
      <div className="grid gap-x-12 gap-y-8 xl:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
        <div className="space-y-8">
          <Health mailbox={data} />
          {data.kind !== 'imported' && <MailboxSettings mailbox={data} user={user} />}
          {CALENDAR_KINDS.has(data.kind) && data.state !== 'closed' && <Calendars mailbox={data} />}
        </div>
        <div className="space-y-8">
          <MailboxLog mailbox={data} />
          <Leaving mailbox={data} user={user} />
        </div>
      </div>
    </Page>
  );
}

const ACTS = { start: 'startMailbox', pause: 'pauseMailbox', retry: 'retryMailbox' } as const;
const CALENDAR_KINDS: ReadonlySet<string> = new Set(['person', 'shared']);
const RUNS = new Set(['running', 'stopped']);

function Health({ mailbox }: { mailbox: MailboxDetail }) {
  const { health } = mailbox;
  const take = useTakeMailbox();
  const go = useNavigate();
  const act = useMutation({
    mutationFn: (what: keyof typeof ACTS) => call(ACTS[what], { id: mailbox.id }),
    onSuccess: take,
  });
  if (!health) return null;
  const { problem } = health;
  const pending = mailbox.folders.reduce((sum, folder) => sum + folder.pending, 0);
  const total = mailbox.folders.reduce((sum, folder) => sum + folder.total, 0);
  return (
    <section aria-label={texts.howItIsDoing}>
      <div className="flex flex-wrap items-start gap-x-8 gap-y-3">
        <div className="min-w-56 grow basis-0">
          <h2 className="flex items-center gap-2 text-lg">
            <HealthMark level={health.level} size={20} /> {health.state}
          </h2>
          <dl className="mt-2 grid grid-cols-[8.5rem_1fr] gap-y-0.5">
            <dt className="text-muted">{texts.lookedAfterBy}</dt>
            <dd>{mailbox.owner}</dd>
            <dt className="text-muted">{common.emails}</dt>
            <dd className="tabular">
              <Link className="text-spruce underline" to={`/all-mail?mailbox=${encodeURIComponent(mailbox.address)}`}>
                {counted(mailbox.emails, 'email')}
              </Link>
              {mailbox.newest && <span className="text-muted">{filled(texts.newest, { newest: <Moment at={mailbox.newest} /> })}</span>}
            </dd>
            {mailbox.lastContactAt && (
              <>
                <dt className="text-muted">{texts.lastGoodContact}</dt>
                <dd>
                  <Moment at={mailbox.lastContactAt} />
                </dd>
              </>
            )}
            {mailbox.delayMs !== null && (
              <>
                <dt className="text-muted">{texts.lastDelay}</dt>
                <dd className="tabular">
                  {texts.fromArrivalToBeing(
                    mailbox.delayMs < 10_000 ? `${(mailbox.delayMs / 1000).toFixed(1)} s` : duration(mailbox.delayMs / 1000),
                  )}
                </dd>
              </>
            )}
            <dt className="text-muted">{texts.stillToRead}</dt>
            <dd className="tabular">{count(mailbox.backlog)}</dd>
          </dl>
        </div>
        <figure>
          <DayBars perDay={mailbox.perDay} width={260} height={64} />
          <figcaption className="mt-1 text-sm text-muted">{texts.emailsADay30}</figcaption>
        </figure>
      </div>
      {mailbox.backlog > 0 && total > 0 && (
        <div className="mt-3 max-w-xl">
          <Progress label={texts.readingBack} done={total - pending} total={total} />
          <p className="tabular mt-1 text-sm text-muted">{texts.ofReadNewestFirst(total - pending, total)}</p>
        </div>
      )}
      {problem && (
        <div role="alert" className="mt-4 max-w-2xl border-l-4 border-ochre bg-raised px-4 py-3">
          <p className="font-semibold">{filled(texts.since, { problemTitle: problem.title, since: <Moment at={problem.since} /> })}</p>
          <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-4 gap-y-1">
            <dt className="text-muted">{texts.forTheHistories}</dt>
            <dd>{problem.means}</dd>
            <dt className="text-muted">{common.fulvet}</dt>
            <dd>{problem.doing}</dd>
            <dt className="text-muted">{texts.you}</dt>
            <dd>{problem.todo}</dd>
            {problem.said && (
              <>
                <dt className="text-muted">{texts.theServerSaid}</dt>
                <dd className="font-mono text-[0.92em] break-words">{problem.said}</dd>
              </>
            )}
          </dl>
        </div>
      )}
      <div className="mt-4 flex flex-wrap gap-2">
        {problem && RUNS.has(mailbox.state) && (
          <Button kind="main" disabled={act.isPending} onClick={() => act.mutate('retry')}>
            {texts.tryNow}
          </Button>
        )}
        {RUNS.has(mailbox.state) && (
          <Button disabled={act.isPending} onClick={() => act.mutate('pause')}>
            {texts.pause}
          </Button>
        )}
        {mailbox.state === 'paused' && (
          <Button kind="main" disabled={act.isPending} onClick={() => act.mutate('start')}>
            {texts.goOn}
          </Button>
        )}
        {mailbox.kind !== 'imported' && (
          <Button onClick={() => void go(`/mailboxes/connect/${mailbox.id}`)}>
            {mailbox.state === 'connecting' || mailbox.state === 'closed' ? texts.goOnConnecting : texts.serverSignInAnd}
          </Button>
        )}
        {mailbox.kind === 'imported' && <Button onClick={() => void go('/mailboxes/connect')}>{texts.connectItToIts}</Button>}
      </div>
      <Trouble error={act.error} />
    </section>
  );
}

/** What is done when someone leaves: the mailbox goes, the history stays. */
function Leaving({ mailbox, user }: { mailbox: MailboxDetail; user: User }) {
  const [asking, setAsking] = useState<'handOver' | 'disconnect' | null>(null);
  const connected = ['connecting', 'running', 'paused', 'stopped'].includes(mailbox.state);
  if (user.role !== 'admin' && !connected) return null;
  return (
    <section aria-label={texts.leaving}>
      <h2 className="mb-1 text-lg">{texts.whenSomeoneLeaves}</h2>
      <div className="flex flex-wrap gap-2">
        {user.role === 'admin' && <Button onClick={() => setAsking('handOver')}>{texts.giveToAColleague}</Button>}
        {connected && (
          <Button kind="danger" onClick={() => setAsking('disconnect')}>
            {texts.disconnect}
          </Button>
        )}
      </div>
      <PassOn mailbox={mailbox} open={asking === 'handOver'} onClose={() => setAsking(null)} />
      <Disconnect mailbox={mailbox} open={asking === 'disconnect'} onClose={() => setAsking(null)} />
    </section>
  );
}

function PassOn({ mailbox, open, onClose }: { mailbox: MailboxDetail; open: boolean; onClose: () => void }) {
  const team = useTeam();
  const refresh = useRefreshAll();
  const notice = useNotice();
  const others = team.data?.members.filter((member) => member.id !== mailbox.ownerId) ?? [];
  const form = useBodyForm('passOnMailbox', {
    values: { ownerId: '' },
    input: ({ ownerId }) => ({ id: mailbox.id, body: { ownerId: Number(ownerId) } }),
    checkedBy: 'server',
    onDone: async ({ emails }) => {
      onClose();
      await refresh();
      notice(texts.looksAfterItNow(next?.name ?? texts.theColleague, emails, mailbox.owner), {
        label: texts.giveItBack,
        run: async () => {
          await call('passOnMailbox', { id: mailbox.id, body: { ownerId: mailbox.ownerId } });
          await refresh();
        },
      });
    },
  });
  const chosen = form.fields.watch('ownerId');
  const next = others.find((other) => String(other.id) === chosen);
  return (
    <Modal open={open} onClose={onClose} title={texts.giveThisMailboxTo}>
      <p className="mb-3">{texts.theColleagueLooksAfter(mailbox.emails, mailbox.owner)}</p>
      <Form form={form}>
        <SelectField form={form} name="ownerId" label={texts.colleague}>
          <Option value="">{common.choose}</Option>
          {others.map((other) => (
            <Option key={other.id} value={other.id}>
              {other.name}
            </Option>
          ))}
        </SelectField>
        <FormEnd form={form} label={next ? texts.giveItTo(next.name) : texts.giveIt} disabled={!next} onCancel={onClose} />
      </Form>
    </Modal>
  );
}

function Disconnect({ mailbox, open, onClose }: { mailbox: MailboxDetail; open: boolean; onClose: () => void }) {
  const go = useNavigate();
  const refresh = useRefreshAll();
  const notice = useNotice();
  const disconnect = useMutation({
    mutationFn: () => call('disconnectMailbox', { id: mailbox.id }),
    onSuccess: async () => {
      await go('/mailboxes');
      await refresh();
      notice(texts.isDisconnectedItCan(mailbox.address));
    },
  });
  return (
    <Modal open={open} onClose={onClose} title={texts.disconnectForAddress(mailbox.address)}>
      <p>{texts.newMailNoLonger(mailbox.emails > 0 ? texts.itsEmailStayIn(mailbox.emails) : '')}</p>
      <Trouble error={disconnect.error} />
      <div className="mt-4 flex justify-end gap-2">
        <Button onClick={onClose}>{texts.keepItConnected}</Button>
        <Button kind="danger" disabled={disconnect.isPending} onClick={() => disconnect.mutate()}>
          {texts.disconnectNow}
        </Button>
      </div>
    </Modal>
  );
}
