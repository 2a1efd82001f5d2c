import type { Mailbox, User } from '@fulvet/contract';
import type { ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import { useMailboxes } from '../api/queries';
import { Address, Button, Empty, Page, Together, Trouble } from '../parts/basics';
import { DayBars } from '../parts/DayBars';
import { Moment } from '../parts/Moment';
import { count, counted, duration } from '../parts/numbers';
import { DataTable } from '../parts/table/DataTable';
import type { Column } from '../parts/table/useColumns';
import { useNarrow } from '../parts/useNarrow';
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
  const followed = sorted.filter((item) => isFollowed(item));
  const others = sorted.filter((item) => !isFollowed(item));
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
      <Together>
        {mailboxes.data && all.length === 0 && <Empty title={words.noMailboxYet}>{words.connectAMailboxOr}</Empty>}
        {followed.length > 0 && <Followed mailboxes={followed} />}
        {others.length > 0 && <Others mailboxes={others} isOpen={followed.length === 0} />}
        {edits && (
          <div className="mt-10 grid gap-x-10 gap-y-8 xl:grid-cols-[3fr_2fr]">
            <section>
              <h2 className="mb-2 text-lg">{words.fromAFile}</h2>
              <ImportMail user={user} mailboxes={all} />
            </section>
            <Imports />
          </div>
        )}
      </Together>
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
  return said.length > 0 ? `${said.join('; ')}.` : words.howEachIsDoing(all.length);
}

const KINDS: Record<Mailbox['kind'], string> = { imported: '', person: '', shared: words.sharedAddress, filing: words.filingAddress };

/** Looked after by the reader, or used: how much comes in is known. */
const isFollowed = (item: Mailbox): boolean => item.lookedAfter || item.perDay.length > 0;

const pathOf = (mailbox: Mailbox): string =>
  mailbox.lookedAfter ? `/mailboxes/${mailbox.id}` : `/all-mail?mailbox=${encodeURIComponent(mailbox.address)}`;

const ownerOf = ({ owner, kind }: Mailbox): string => [owner, KINDS[kind]].filter(Boolean).join(', ');

const COLUMNS: readonly Column<Mailbox>[] = [
  {
    key: 'address',
    label: common.address,
    width: 'minmax(19rem,1.5fr)',
    isFixed: true,
    cell: (mailbox) => (
      <Link to={pathOf(mailbox)} className="flex min-h-10 items-center gap-2 hover:underline">
        <span className="w-4 shrink-0">{mailbox.health && <HealthMark level={mailbox.health.level} />}</span>
        <span className="min-w-0 truncate">
          <Address className="whitespace-nowrap">{mailbox.address}</Address>
        </span>
      </Link>
    ),
  },
  {
    key: 'owner',
    label: words.lookedAfterBy,
    width: 'minmax(9rem,1fr)',
    cell: ({ owner, kind }) => <TwoLines first={owner} second={KINDS[kind]} />,
  },
  { key: 'state', label: words.state, width: 'minmax(10rem,1.2fr)', cell: (mailbox) => <State mailbox={mailbox} /> },
  {
    key: 'days',
    label: words.lastDays,
    width: '165px',
    cell: ({ perDay }) => (perDay.length > 0 ? <DayBars perDay={perDay} /> : ''),
  },
  {
    key: 'emails',
    label: common.emails,
    width: '5rem',
    end: true,
    cell: ({ perDay, emails }) => (perDay.length > 0 ? <Line>{count(emails)}</Line> : ''),
  },
  {
    key: 'newest',
    label: words.newest,
    width: '5.5rem',
    end: true,
    cell: ({ newest }) =>
      newest && (
        <Line>
          <Moment at={newest} />
        </Line>
      ),
  },
];

/** A cell of one line, as high as a row. */
const Line = ({ children }: { children: ReactNode }) => <span className="block truncate leading-10">{children}</span>;

/** A cell with something smaller below what it says; in the middle of its row without. */
function TwoLines({ first, second }: { first: ReactNode; second: string }) {
  return (
    <span className="flex min-h-10 min-w-0 flex-col justify-center">
      <span className="truncate">{first}</span>
      {second && <span className="truncate text-sm text-muted">{second}</span>}
    </span>
  );
}

/** The mailboxes of which the reader knows how they are doing: a table; on a phone rows of two lines. */
function Followed({ mailboxes }: { mailboxes: readonly Mailbox[] }) {
  const isNarrow = useNarrow();
  if (!isNarrow)
    return (
      <DataTable
        name="mailboxes"
        label={common.mailboxes}
        columns={COLUMNS}
        rows={mailboxes}
        rowKey={({ id }) => String(id)}
        least="58rem"
        heading={<span className="text-muted">{digest(mailboxes)}</span>}
      />
    );
  return (
    <>
      <p className="mb-3 text-muted">{digest(mailboxes)}</p>
      <ul aria-label={common.mailboxes} className="divide-y divide-line border-y border-line">
        {mailboxes.map((mailbox) => (
          <li key={mailbox.id}>
            <Link to={pathOf(mailbox)} className="grid grid-cols-[1.25rem_minmax(0,1fr)_auto] gap-x-3 px-1 py-1.5">
              {mailbox.health ? <HealthMark level={mailbox.health.level} /> : <span />}
              <Address className="truncate">{mailbox.address}</Address>
              <span className="tabular text-sm">{mailbox.perDay.length > 0 && counted(mailbox.emails, 'email')}</span>
              <span className="col-span-2 col-start-2 min-w-0">
                <State mailbox={mailbox} />
              </span>
            </Link>
          </li>
        ))}
      </ul>
    </>
  );
}

function State({ mailbox }: { mailbox: Mailbox }) {
  const { health } = mailbox;
  if (!health) return <TwoLines first={words.youUseIt} second="" />;
  const state = (
    <>
      <span className="font-medium">{health.state}</span>
      {mailbox.backlog > 0 && <span className="tabular text-muted"> {words.toGo(mailbox.backlog)}</span>}
    </>
  );
  return <TwoLines first={state} second={health.problem ? health.problem.title : contact(mailbox)} />;
}

/** Mailboxes of colleagues: that they come in is known, not how they are doing. */
function Others({ mailboxes, isOpen }: { mailboxes: readonly Mailbox[]; isOpen: boolean }) {
  return (
    <details open={isOpen} className="mt-5">
      <summary className="min-h-7 cursor-pointer text-muted">{words.ofColleagues(mailboxes.length)}</summary>
      <ul aria-label={words.mailboxesOfColleagues} className="mt-1 grid gap-x-8 border-t border-line sm:grid-cols-2 xl:grid-cols-3">
        {mailboxes.map((mailbox) => (
          <li key={mailbox.id} className="border-b border-line">
            <Link to={pathOf(mailbox)} className="block px-1 py-1.5 hover:bg-sunk">
              <Address className="block truncate">{mailbox.address}</Address>
              <span className="block truncate text-sm text-muted">{ownerOf(mailbox)}</span>
            </Link>
          </li>
        ))}
      </ul>
    </details>
  );
}

function contact(mailbox: Mailbox): string {
  if (!['running', 'stopped'].includes(mailbox.state) || mailbox.lastContactAt === null) return '';
  const ago = Math.max(0, Date.now() - Date.parse(mailbox.lastContactAt)) / 1000;
  const heard = ago < 45 ? words.connectedJustNow : words.heardFromAgo(ago);
  return mailbox.delayMs === null ? heard : words.lastEmailFiledAfter(heard, seconds(mailbox.delayMs));
}

const seconds = (ms: number): string => (ms < 10_000 ? `${(ms / 1000).toFixed(1)} s` : duration(ms / 1000));
