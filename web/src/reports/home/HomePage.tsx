import type { Arrival, User } from '@fulvet/contract';
import { lazy } from 'react';
import { Link } from 'react-router';
import { useArrival, useLine, useRulebook } from '../../api/queries';
import { Empty, Page, Together, Trouble, Waiting } from '../../parts/basics';
import { Moment } from '../../parts/Moment';
import { count, counted } from '../../parts/numbers';
import { OUTCOME_LABELS, OutcomeMark } from '../../parts/OutcomeMark';
import { inForce } from '../../rulebook/sentences/defaultSentences';
import { RecentChanges, UnusualRules } from './AdminLists';
import { Door } from './Door';
import { Flow } from './Flow';
import { SampleWorld } from './SampleWorld';
import { SetUpList } from './SetUpList';
import { QuietDeals, Unanswered, UnansweredCustomers } from './TeamLists';
import { filled } from '../../parts/filled';
import { homePage as words } from './words';

// What few readers see, and most not today, is not part of the first load.
const NewFilings = lazy(() => import('./NewFilings'));
const Reminders = lazy(() => import('./Reminders'));
const SeriesSteps = lazy(() => import('./SeriesSteps'));
const UpcomingMeetings = lazy(() => import('./UpcomingMeetings'));
const TodaysTasks = lazy(() => import('./TodaysTasks'));
const TroubledMailboxes = lazy(() => import('./TroubledMailboxes'));

/** What needs the reader's attention, by role. Every line is a link. */
export default function HomePage({ user }: { user: User }) {
  const arrival = useArrival();
  const trouble = useLine().data?.mailboxTrouble ?? 0;
  if (arrival.isPending) return <Waiting what={words.loading} />;
  if (arrival.isError) return <Page title={words.home}>{<Trouble error={arrival.error} />}</Page>;
  const { data } = arrival;
  const first = user.name.split(' ')[0] ?? user.name;
  if (data.emails === 0) return user.role === 'admin' ? <Welcome user={user} first={first} arrival={data} /> : <NoMail user={user} />;
  return (
    <Page wide title={`${greeting()}, ${first}`}>
      <Together>
        {user.role === 'admin' && <SampleWorld />}
        {user.role === 'admin' && <SetUpList user={user} arrival={data} open={false} />}
        <div className="grid max-w-[88rem] gap-x-10 gap-y-7 lg:grid-cols-[1.25fr_1fr]">
          <div className="min-w-0 space-y-7">
            <Since arrival={data} user={user} trouble={trouble} />
            <Flow />
            {user.role === 'admin' && <RecentChanges />}
            {user.role === 'rep' && <NewFilings />}
            {user.role === 'manager' && <QuietDeals />}
          </div>
          <div className="min-w-0 space-y-7">
            {data.meetings.length > 0 && <UpcomingMeetings meetings={data.meetings} />}
            {data.tasks.length > 0 && <TodaysTasks tasks={data.tasks} />}
            {data.series.length > 0 && <SeriesSteps runs={data.series} user={user} />}
            <Unanswered items={data.unanswered} />
            {data.reminders.length > 0 && <Reminders items={data.reminders} />}
            {user.role === 'admin' && trouble > 0 && <TroubledMailboxes />}
            {user.role === 'admin' && <UnusualRules />}
            {user.role !== 'viewer' && <UnansweredCustomers />}
            {user.role === 'admin' && <QuietDeals />}
            <InForce user={user} />
          </div>
        </div>
      </Together>
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
        {filled(words.since, { came: counted(a.came, 'email'), since: a.since ? <Moment at={a.since} /> : words.yourLastVisit })}
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
        {a.undecided > 0 && <Door to="/all-mail?outcome=undecided">{words.emailNotDecidedYet(a.undecided)}</Door>}
        {trouble > 0 && user.role !== 'admin' && (
          <Door to="/mailboxes">
            <span className="font-semibold text-ochre">{words.mailboxesAreInTrouble(trouble)}</span>
          </Door>
        )}
        {questions > 0 && (
          <Door to={user.role === 'admin' ? '/desk?whose=all' : '/desk'}>
            {words.questionAtTheSorting(questions, user.role === 'admin')}
          </Door>
        )}
        {a.newContacts > 0 && (
          <Door to="/records/contact?origin=fulvet&sort=lastEmail&descending=yes">{words.contactCreatedFromThis(a.newContacts)}</Door>
        )}
        {a.newAccounts > 0 && (
          <Door to="/records/account?origin=fulvet&sort=lastEmail&descending=yes">{words.accountCreatedFromThis(a.newAccounts)}</Door>
        )}
        {a.damaged > 0 && user.role !== 'viewer' && (
          <Door to="/all-mail?problems=damaged">
            <span className="font-semibold text-ochre">{words.emailsHaveADamaged(a.damaged)}</span>
          </Door>
        )}
        {a.problems > 0 && user.role !== 'viewer' && <Door to="/all-mail?problems=yes">{words.emailCouldOnlyBe(a.problems)}</Door>}
        {a.runningImports > 0 && <Door to="/mailboxes">{words.importRunning(a.runningImports)}</Door>}
      </ul>
    </section>
  );
}

function InForce({ user }: { user: User }) {
  const rulebook = useRulebook();
  if (!rulebook.data) return null;
  return (
    <section>
      <h2 className="mb-2 text-lg">{words.whatIsInForce}</h2>
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
  return hour < 12 ? words.goodMorning : hour < 18 ? words.goodAfternoon : words.goodEvening;
}

function NoMail({ user }: { user: User }) {
  return (
    <Empty title={words.noMailYet}>
      {user.role === 'viewer'
        ? words.mailAppearsHereWhen
        : filled(words.mailAppearsHereWhenYour, {
            connectIt: (
              <Link className="text-spruce underline" to="/mailboxes/connect">
                {words.connectItNow}
              </Link>
            ),
          })}
    </Empty>
  );
}

function Welcome({ user, first, arrival }: { user: User; first: string; arrival: Arrival }) {
  return (
    <Page title={words.welcome(first)}>
      <p className="mb-4 max-w-prose text-muted">{words.theStepsInThe}</p>
      <SampleWorld />
      <SetUpList user={user} arrival={arrival} open />
    </Page>
  );
}
