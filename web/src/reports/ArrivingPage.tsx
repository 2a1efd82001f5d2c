import type { User } from '@fulvet/contract';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { useArrival, useLine, useRulebook } from '../api/queries';
import { Empty, Page, Trouble, Waiting } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { counted } from '../parts/numbers';
import { OutcomeMark } from '../parts/OutcomeMark';
import { recordPath } from '../parts/people';
import { inForce } from '../rulebook/defaultSentences';
import { useDocket } from '../parts/useDocket';

/** What wants the reader on arriving. Every line is a door. */
export default function Arriving({ user }: { user: User }) {
  const arrival = useArrival();
  const rulebook = useRulebook();
  const trouble = useLine().data?.mailboxTrouble ?? 0;
  const docket = useDocket();
  if (arrival.isPending) return <Waiting what="Looking what came" />;
  if (arrival.isError) return <Page title="Arriving">{<Trouble error={arrival.error} />}</Page>;
  const a = arrival.data;
  const first = user.name.split(' ')[0] ?? user.name;
  if (a.emails === 0) return <FirstSteps user={user} />;
  const day = a.since?.slice(0, 10) ?? '';
  return (
    <Page title={`${greeting()}, ${first}`}>
      <div className="grid gap-x-10 gap-y-8 lg:grid-cols-[1.2fr_1fr]">
        <section className="min-w-0">
          <h2 className="mb-2 text-lg">
            {counted(a.came, 'email')} since {a.since ? <Moment at={a.since} /> : 'your last visit'}
          </h2>
          <ul className="divide-y divide-line border-y border-line">
            {(['filed', 'waiting', 'loose', 'kept out'] as const).map((outcome) =>
              a.byOutcome[outcome] ? (
                <Door key={outcome} to={`/register?outcome=${encodeURIComponent(outcome)}&from=${day}`}>
                  <OutcomeMark outcome={outcome} label={false} />
                  <span className="tabular w-12 text-right font-semibold">{a.byOutcome[outcome]}</span>
                  <span>{OUTCOME_WORDS[outcome]}</span>
                </Door>
              ) : null,
            )}
            {a.undecided > 0 && (
              <Door to="/register?outcome=undecided">
                <OutcomeMark outcome={null} label={false} />
                <span className="tabular w-12 text-right font-semibold">{a.undecided}</span>
                <span>not decided yet</span>
              </Door>
            )}
          </ul>
          <ul className="mt-6 divide-y divide-line border-y border-line">
            {trouble > 0 && (
              <Door to="/mailboxes">
                <span className="font-semibold text-ochre">{counted(trouble, 'mailbox is', 'mailboxes are')} in trouble</span>
              </Door>
            )}
            {a.newContacts > 0 && (
              <Door to="/histories/contact?origin=fulvet&sort=lastEmail&descending=yes">
                {counted(a.newContacts, 'contact')} created from mail
              </Door>
            )}
            {a.newAccounts > 0 && (
              <Door to="/histories/account?origin=fulvet&sort=lastEmail&descending=yes">
                {counted(a.newAccounts, 'account')} created from domains
              </Door>
            )}
            {a.waiting > 0 && (
              <Door to={user.role === 'viewer' ? '/register?outcome=waiting' : '/desk'}>
                {counted(a.waiting, 'email waits', 'emails wait')} for a person to say under which deal or account
              </Door>
            )}
            {a.damaged > 0 && user.role !== 'viewer' && (
              <Door to="/register?problems=damaged">
                <span className="font-semibold text-ochre">
                  {counted(a.damaged, 'email has', 'emails have')} a damaged source. Import or synchronise them again.
                </span>
              </Door>
            )}
            {a.problems > 0 && user.role !== 'viewer' && (
              <Door to="/register?problems=yes">{counted(a.problems, 'email')} could only be read in part</Door>
            )}
            {a.runningImports > 0 && <Door to="/mailboxes">{counted(a.runningImports, 'import')} running</Door>}
          </ul>
        </section>
        <section className="min-w-0 space-y-8">
          {a.unanswered.length > 0 && (
            <div>
              <h2 className="mb-2 text-lg">Wrote to you, not answered yet</h2>
              <ul className="divide-y divide-line border-y border-line">
                {a.unanswered.map((item) => (
                  <li key={item.emailId}>
                    <button
                      type="button"
                      className="block w-full px-1 py-1.5 text-left hover:bg-sunk"
                      onClick={() => docket.open(item.emailId)}
                    >
                      <span className="flex gap-2">
                        <span className="truncate font-medium">{item.from}</span>
                        <Moment at={item.at} className="tabular ml-auto text-sm whitespace-nowrap text-muted" />
                      </span>
                      <span className="block truncate text-muted">{item.subject || '(no subject)'}</span>
                    </button>
                    {item.record && (
                      <Link
                        to={recordPath(item.record.kind, item.record.id)}
                        className="block truncate px-1 pb-1.5 text-sm text-spruce hover:underline"
                      >
                        {item.record.name}
                      </Link>
                    )}
                  </li>
                ))}
              </ul>
            </div>
          )}
          {rulebook.data && (
            <div>
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
            </div>
          )}
        </section>
      </div>
    </Page>
  );
}

const OUTCOME_WORDS = {
  filed: 'filed under records',
  waiting: 'wait for a person to decide',
  loose: 'unfiled',
  'kept out': 'kept out',
};

function Door({ to, children }: { to: string; children: ReactNode }) {
  return (
    <li>
      <Link to={to} className="flex items-center gap-3 px-1 py-1.5 hover:bg-sunk">
        {children}
        <span aria-hidden className="ml-auto text-muted">
          →
        </span>
      </Link>
    </li>
  );
}

function greeting(): string {
  const hour = new Date().getHours();
  return hour < 12 ? 'Good morning' : hour < 18 ? 'Good afternoon' : 'Good evening';
}

function FirstSteps({ user }: { user: User }) {
  if (user.role !== 'admin')
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
  const steps: [string, string, string][] = [
    ['/share', 'See what is in force', 'Nothing is created, and no one sees another member’s mail, until you change it.'],
    ['/team', 'Say who we are', 'Add the team; their addresses never become contacts.'],
    ['/histories/account/import', 'Bring your records', 'Accounts first, then contacts, leads and deals, from CSV or vCard.'],
    ['/keep-out', 'Keep out what has no business here', 'Domains and addresses; machine mail and internal mail stay out already.'],
    ['/mailboxes/connect', 'Connect a mailbox', 'Every precondition is tried in front of you; a mailbox file can be dropped in instead.'],
  ];
  return (
    <Page title={`Welcome, ${user.name.split(' ')[0] ?? ''}`}>
      <p className="mb-4 max-w-prose text-muted">Five steps, in this order. Each can be changed later.</p>
      <ol className="max-w-2xl divide-y divide-line border-y border-line">
        {steps.map(([to, title, text], at) => (
          <li key={to}>
            <Link to={to} className="flex gap-4 px-1 py-3 hover:bg-sunk">
              <span className="font-head text-xl text-spruce">{at + 1}</span>
              <span>
                <span className="block font-semibold">{title}</span>
                <span className="text-muted">{text}</span>
              </span>
            </Link>
          </li>
        ))}
      </ol>
    </Page>
  );
}
