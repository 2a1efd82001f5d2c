import type { Mailbox, User } from '@fulvet/contract';
import { Link, useNavigate } from 'react-router';
import { useMailboxes } from '../api/queries';
import { Address, Button, Empty, Page, Trouble } from '../parts/basics';
import { DayBars } from '../parts/DayBars';
import { Moment } from '../parts/Moment';
import { counted, duration } from '../parts/numbers';
import { HealthMark } from './HealthMark';
import { ImportMail } from './ImportMail';
import { Imports } from './Imports';
import { common } from '../parts/words';
import { mailboxesPage as words } from './words';

const URGENCY = { stopped: 0, trouble: 1, busy: 2, well: 3, resting: 4 } as const;

/** Whose mail comes in, how each mailbox is doing, and the ways to bring more. */
export default function MailboxesPage({ user }: { user: User }) {
  const mailboxes = useMailboxes();
  const go = useNavigate();
  const edits = user.role !== 'viewer';
  const all = mailboxes.data?.mailboxes ?? [];
  const sorted = [...all].sort((first, second) => urgencyOf(first) - urgencyOf(second) || first.address.localeCompare(second.address));
  return (
    <Page
      purpose={words.theMailboxesThatFulvet}
      title={common.mailboxes}
      wide
      aside={
        edits && (
          <div className="flex flex-wrap gap-2">
            {user.role === 'admin' && <Button onClick={() => void go('/mailboxes/many')}>{words.connectManyFromA}</Button>}
            <Button kind="main" onClick={() => void go('/mailboxes/connect')}>
              {user.role === 'admin' ? common.connectAMailbox : words.connectMyMailbox}
            </Button>
          </div>
        )
      }
    >
      <Trouble error={mailboxes.error} />
      {mailboxes.data && all.length === 0 && <Empty title={words.noMailboxYet}>{words.connectAMailboxOr}</Empty>}
      {all.length > 0 && <p className="mb-3 text-muted">{digest(all)}</p>}
      <ul aria-label={common.mailboxes} className="divide-y divide-line border-y border-line">
        {sorted.map((item) => (
          <MailboxRow key={item.id} mailbox={item} />
        ))}
      </ul>
      {edits && (
        <div className="mt-10 grid gap-x-10 gap-y-8 xl:grid-cols-[3fr_2fr]">
          <section>
            <h2 className="mb-2 text-lg">{words.fromAFile}</h2>
            <ImportMail user={user} mailboxes={all} />
          </section>
          <Imports />
        </div>
      )}
    </Page>
  );
}

const urgencyOf = (item: Mailbox): number => URGENCY[item.health?.level ?? 'resting'];

/** The state of all mailboxes that the reader looks after, in a sentence or two. */
function digest(all: readonly Mailbox[]): string {
  const mine = all.filter((item) => item.health !== null);
  const backlog = mine.reduce((sum, item) => sum + item.backlog, 0);
  const at = (level: keyof typeof URGENCY): number => mine.filter((item) => item.health?.level === level).length;
  const said = [
    at('well') > 0 && counted(at('well'), 'mailbox works', 'mailboxes work'),
    at('busy') > 0 && words.beingReadEmailTo(at('busy'), backlog),
    at('trouble') > 0 && words.inTroubleFulvetIs(at('trouble')),
    at('stopped') > 0 && words.stoppedAndNeedsA(at('stopped')),
    at('resting') > 0 && words.notFollowed(at('resting')),
  ].filter((item) => item !== false);
  return said.length > 0
    ? `${said.join('; ')}.`
    : `${counted(all.length, 'mailbox', 'mailboxes')}. How each is doing is seen by those who look after it.`;
}

const KINDS: Record<Mailbox['kind'], string> = { imported: '', person: '', shared: words.sharedAddress, filing: words.filingAddress };

function MailboxRow({ mailbox }: { mailbox: Mailbox }) {
  const { health } = mailbox;
  const kind = KINDS[mailbox.kind];
  return (
    <li>
      <Link
        to={mailbox.lookedAfter ? `/mailboxes/${mailbox.id}` : `/all-mail?mailbox=${encodeURIComponent(mailbox.address)}`}
        className="grid grid-cols-[1.25rem_minmax(0,1fr)_auto] items-center gap-x-3 px-1 py-1.5 hover:bg-sunk md:grid-cols-[1.25rem_minmax(0,1.3fr)_minmax(0,1fr)_150px_6rem_4.5rem]"
      >
        {health ? <HealthMark level={health.level} /> : <span />}
        <span className="min-w-0">
          <Address>{mailbox.address}</Address>
          <span className="block truncate text-sm text-muted">
            {mailbox.owner}
            {kind && `, ${kind}`}
          </span>
        </span>
        <span className="min-w-0 max-md:order-last max-md:col-span-2 max-md:col-start-2">
          {health && (
            <>
              <span className="font-medium">{health.state}</span>
              {mailbox.backlog > 0 && <span className="tabular text-muted"> {words.toGo(mailbox.backlog)}</span>}
              <span className="block truncate text-sm text-muted">{health.problem ? health.problem.title : contact(mailbox)}</span>
            </>
          )}
        </span>
        <span className="max-md:hidden">{mailbox.perDay.length > 0 && <DayBars perDay={mailbox.perDay} />}</span>
        <span className="tabular text-right whitespace-nowrap">{mailbox.perDay.length > 0 && counted(mailbox.emails, 'email')}</span>
        <span className="text-right text-sm whitespace-nowrap text-muted max-md:hidden">
          {mailbox.newest && <Moment at={mailbox.newest} />}
        </span>
      </Link>
    </li>
  );
}

function contact(mailbox: Mailbox): string {
  if (!['running', 'stopped'].includes(mailbox.state) || mailbox.lastContactAt === null) return '';
  const ago = Math.max(0, Date.now() - Date.parse(mailbox.lastContactAt)) / 1000;
  const heard = ago < 45 ? words.connectedJustNow : words.heardFromAgo(ago);
  return mailbox.delayMs === null ? heard : words.lastEmailFiledAfter(heard, seconds(mailbox.delayMs));
}

const seconds = (ms: number): string => (ms < 10_000 ? `${(ms / 1000).toFixed(1)} s` : duration(ms / 1000));
