import type { Arrival, User } from '@fulvet/contract';
import { lazy, Suspense } from 'react';
import { Link } from 'react-router';
import { useArrival, useLine, useRulebook } from '../api/queries';
import { Empty, Page, Trouble, Waiting } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { count, counted } from '../parts/numbers';
import { OUTCOME_LABELS, OutcomeMark } from '../parts/OutcomeMark';
import { inForce } from '../rulebook/defaultSentences';
import { RecentChanges, UnusualRules } from './home/AdminLists';
import { Door } from './home/Door';
import { Flow } from './home/Flow';
import { SampleWorld } from './home/SampleWorld';
import { SetUpList } from './home/SetUpList';
import { QuietDeals, Unanswered, UnansweredCustomers } from './home/TeamLists';

// What few readers see, and most not today, is not part of the first load.
const NewFilings = lazy(() => import('./home/NewFilings'));
const TroubledMailboxes = lazy(() => import('./home/TroubledMailboxes'));

/** What needs the reader's attention, by role. Every line is a link. */
export default function HomePage({ user }: { user: User }) {
  const arrival = useArrival();
  const trouble = useLine().data?.mailboxTrouble ?? 0;
  if (arrival.isPending) return <Waiting what="Loading" />;
  if (arrival.isError) return <Page title="Home">{<Trouble error={arrival.error} />}</Page>;
  const { data } = arrival;
  const first = user.name.split(' ')[0] ?? user.name;
  if (data.emails === 0) return user.role === 'admin' ? <Welcome user={user} first={first} arrival={data} /> : <NoMail user={user} />;
  return (
    <Page wide title={`${greeting()}, ${first}`}>
      {user.role === 'admin' && <SampleWorld />}
      {user.role === 'admin' && <SetUpList user={user} arrival={data} open={false} />}
      <div className="grid max-w-[88rem] gap-x-10 gap-y-7 lg:grid-cols-[1.25fr_1fr]">
        <div className="min-w-0 space-y-7">
          <Since arrival={data} user={user} trouble={trouble} />
          <Flow />
          {user.role === 'admin' && <RecentChanges />}
          {user.role === 'rep' && (
            <Suspense>
              <NewFilings />
            </Suspense>
          )}
          {user.role === 'manager' && <QuietDeals />}
        </div>
        <div className="min-w-0 space-y-7">
          <Unanswered items={data.unanswered} />
          {user.role === 'admin' && trouble > 0 && (
            <Suspense>
              <TroubledMailboxes />
            </Suspense>
          )}
          {user.role === 'admin' && <UnusualRules />}
          {user.role !== 'viewer' && <UnansweredCustomers />}
          {user.role === 'admin' && <QuietDeals />}
          <InForce user={user} />
        </div>
      </div>
    </Page>
  );
}

/** What came since the last visit, and what of it needs someone. */
function Since({ arrival: a, user, trouble }: { arrival: Arrival; user: User; trouble: number }) {
  const day = a.since?.slice(0, 10) ?? '';
  const questions = useLine().data?.questions ?? 0;
  return (
    <section className="min-w-0">
      <h2 className="mb-2 text-lg">
        {counted(a.came, 'email')} since {a.since ? <Moment at={a.since} /> : 'your last visit'}
      </h2>
      <ul className="grid grid-cols-2 gap-x-6 border-y border-line sm:grid-cols-4">
        {(['filed', 'waiting', 'unfiled', 'kept out'] as const).map((outcome) => (
          <li key={outcome}>
            <Link
              to={`/all-mail?outcome=${encodeURIComponent(outcome)}&from=${day}`}
              className="flex min-h-9 items-center gap-2 px-1 hover:bg-sunk"
            >
              <OutcomeMark outcome={outcome} label={false} />
              <span className="tabular font-head text-lg font-semibold">{count(a.byOutcome[outcome] ?? 0)}</span>
              <span>{OUTCOME_LABELS[outcome]}</span>
            </Link>
          </li>
        ))}
      </ul>
      <ul className="divide-y divide-line border-b border-line">
        {a.undecided > 0 && <Door to="/all-mail?outcome=undecided">{counted(a.undecided, 'email')} not decided yet</Door>}
        {trouble > 0 && user.role !== 'admin' && (
          <Door to="/mailboxes">
            <span className="font-semibold text-ochre">{counted(trouble, 'mailbox is', 'mailboxes are')} in trouble</span>
          </Door>
        )}
        {questions > 0 && (
          <Door to={user.role === 'admin' ? '/desk?whose=all' : '/desk'}>
            {counted(questions, 'question')} at the sorting desk{user.role === 'admin' ? ', for everyone' : ' for you'}, all time
          </Door>
        )}
        {a.newContacts > 0 && (
          <Door to="/records/contact?origin=fulvet&sort=lastEmail&descending=yes">
            {counted(a.newContacts, 'contact')} created from this mail
          </Door>
        )}
        {a.newAccounts > 0 && (
          <Door to="/records/account?origin=fulvet&sort=lastEmail&descending=yes">
            {counted(a.newAccounts, 'account')} created from this mail
          </Door>
        )}
        {a.damaged > 0 && user.role !== 'viewer' && (
          <Door to="/all-mail?problems=damaged">
            <span className="font-semibold text-ochre">
              {counted(a.damaged, 'email has', 'emails have')} a damaged source. Import or synchronise them again.
            </span>
          </Door>
        )}
        {a.problems > 0 && user.role !== 'viewer' && (
          <Door to="/all-mail?problems=yes">{counted(a.problems, 'email')} could only be read in part, all time</Door>
        )}
        {a.runningImports > 0 && <Door to="/mailboxes">{counted(a.runningImports, 'import')} running</Door>}
      </ul>
    </section>
  );
}

function InForce({ user }: { user: User }) {
  const rulebook = useRulebook();
  if (!rulebook.data) return null;
  return (
    <section>
      <h2 className="mb-2 text-lg">What is in force</h2>
      <ul className="space-y-1.5">
        {inForce(rulebook.data.document).map(({ to, text }) => (
          <li key={text} className="text-muted">
            {user.role === 'admin' ? (
              <Link to={to} className="hover:text-ink hover:underline">
                {text}
              </Link>
            ) : (
              text
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function greeting(): string {
  const hour = new Date().getHours();
  return hour < 12 ? 'Good morning' : hour < 18 ? 'Good afternoon' : 'Good evening';
}

function NoMail({ user }: { user: User }) {
  return (
    <Empty title="No mail yet">
      {user.role === 'viewer' ? (
        'Mail appears here when mailboxes are connected and colleagues share what is in them.'
      ) : (
        <>
          Mail appears here when your mailbox is connected.{' '}
          <Link className="text-spruce underline" to="/mailboxes/connect">
            Connect it now
          </Link>
          : it takes two minutes, and you alone see what is in it.
        </>
      )}
    </Empty>
  );
}

function Welcome({ user, first, arrival }: { user: User; first: string; arrival: Arrival }) {
  return (
    <Page title={`Welcome, ${first}`}>
      <p className="mb-4 max-w-prose text-muted">The steps in the order that works best. Each can be changed later.</p>
      <SampleWorld />
      <SetUpList user={user} arrival={arrival} open />
    </Page>
  );
}
