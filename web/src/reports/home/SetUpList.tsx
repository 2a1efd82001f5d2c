import type { Arrival, User } from '@fulvet/contract';
import { CheckCircle2, Circle } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { useRulebook, useTeam, useTrials } from '../../api/queries';
import { Button } from '../../parts/basics';
import { useSample } from './SampleWorld';
import { counted } from '../../parts/numbers';

const HIDDEN = 'fulvet.setUpHidden';

interface Step {
  to: string;
  title: string;
  text: string;
  done: boolean;
  warning?: string | undefined;
}

/** The order of the work for an administrator, with what is done. It stays until all is done, or until it is hidden. */
export function SetUpList({ user, arrival, open }: { user: User; arrival: Arrival; open: boolean }) {
  const steps = useSteps(user, arrival);
  const [hidden, setHidden] = useState(() => window.localStorage.getItem(HIDDEN) === 'yes');
  const [unfolded, setUnfolded] = useState(open);
  const left = steps?.filter(({ done }) => !done) ?? [];
  if (!steps || ((left.length === 0 || hidden) && !open)) return null;
  const [next] = left;
  const hide = (): void => {
    window.localStorage.setItem(HIDDEN, 'yes');
    setHidden(true);
  };
  return (
    <section aria-label="Set-up" className="mb-6 rounded border border-line bg-raised px-3 py-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <strong className="tabular">
          Set-up: {steps.length - left.length} of {counted(steps.length, 'step')} done
        </strong>
        {!unfolded && next && (
          <Link to={next.to} className="text-spruce underline">
            Next: {next.title}
          </Link>
        )}
        <span className="ml-auto flex gap-1">
          {!open && (
            <Button kind="quiet" aria-expanded={unfolded} onClick={() => setUnfolded(!unfolded)}>
              {unfolded ? 'Fold the list' : 'Show all steps'}
            </Button>
          )}
          {!open && (
            <Button kind="quiet" onClick={hide}>
              Hide this list
            </Button>
          )}
        </span>
      </div>
      {unfolded && (
        <ol className="mt-1 divide-y divide-line border-t border-line">
          {steps.map(({ to, title, text, done, warning }) => (
            <li key={to}>
              <Link to={to} className="flex gap-3 px-1 py-2 hover:bg-sunk">
                {done ? (
                  <CheckCircle2 size={18} className="shrink-0 text-moss" aria-hidden />
                ) : (
                  <Circle size={18} className="shrink-0 text-slate" aria-hidden />
                )}
                <span>
                  <span className="font-semibold">
                    {title}
                    {done && <span className="sr-only"> (done)</span>}
                  </span>
                  <span className="block text-muted">{text}</span>
                  {warning && <span className="block text-ochre">{warning}</span>}
                </span>
              </Link>
            </li>
          ))}
        </ol>
      )}
    </section>
  );
}

function useSteps(user: User, arrival: Arrival): Step[] | null {
  const rulebook = useRulebook().data;
  const team = useTeam().data;
  const trials = useTrials().data;
  // What the sample world holds is not theirs.
  const isSample = useSample().data?.step != null;
  if (!rulebook || !team || !trials) return null;
  const { us, keepOut } = rulebook.document;
  const ownDomain = user.email.slice(user.email.indexOf('@') + 1);
  const isOwn = us.ownDomains.some((domain) => ownDomain === domain || ownDomain.endsWith(`.${domain}`));
  return [
    {
      to: '/who-we-are',
      title: 'Say who we are',
      text: 'Your domains and shared addresses: mail among yourselves is internal, and colleagues never become contacts.',
      done: us.ownDomains.length > 0 && isOwn,
      warning: isOwn ? undefined : `Your own address is at ${ownDomain}, which is not one of your domains.`,
    },
    {
      to: '/team',
      title: 'Add your team',
      text: 'All members with mail to file, or who read filed mail.',
      done: team.members.length > 1,
    },
    {
      to: '/records/account/import',
      title: 'Import your records',
      text: 'Accounts first, then contacts, leads and deals, from CSV or vCard.',
      done: arrival.records > 0 && !isSample,
    },
    {
      to: '/keep-out',
      title: 'Keep out what does not belong in records',
      text: 'Private senders, suppliers, job applications. Newsletters, notices and internal mail are kept out already.',
      done: keepOut.entries.length + keepOut.rules.length > 0,
    },
    {
      to: '/mailboxes/connect',
      title: 'Connect a mailbox',
      text: 'Every precondition is checked while you watch. You can import a mailbox file instead.',
      done: arrival.emails > 0 && !isSample,
    },
    {
      to: '/trials',
      title: 'Try the rules on past mail',
      text: 'A trial shows what would be filed, created and shared. It changes nothing.',
      done: trials.trials.length > 0,
    },
    {
      to: '/versions',
      title: 'Put your rules live',
      text: 'For a pilot of some mailboxes first, or for everyone.',
      done: rulebook.version > 1,
    },
  ];
}
