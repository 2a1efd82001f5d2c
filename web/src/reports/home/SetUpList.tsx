import type { Arrival, User } from '@fulvet/contract';
import { CheckCircle2, Circle } from 'lucide-react';
import { useState } from 'react';
import { Link } from 'react-router';
import { useRulebook, useTeam, useTrials } from '../../api/queries';
import { Button } from '../../parts/basics';
import { useSample } from './SampleWorld';
import { common } from '../../parts/words';
import { setUpList as words } from './words';

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
    <section aria-label={words.setUp} className="mb-6 rounded border border-line bg-raised px-3 py-2">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <strong className="tabular">{words.setUpOfStep(steps.length - left.length, steps.length)}</strong>
        {!unfolded && next && (
          <Link to={next.to} className="text-spruce underline">
            {words.next(next.title)}
          </Link>
        )}
        <span className="ml-auto flex gap-1">
          {!open && (
            <Button kind="quiet" aria-expanded={unfolded} onClick={() => setUnfolded(!unfolded)}>
              {unfolded ? words.foldTheList : words.showAllSteps}
            </Button>
          )}
          {!open && (
            <Button kind="quiet" onClick={hide}>
              {words.hideThisList}
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
                    {done && <span className="sr-only"> {words.done}</span>}
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
      title: words.sayWhoWeAre,
      text: words.yourDomainsAndShared,
      done: us.ownDomains.length > 0 && isOwn,
      warning: isOwn ? undefined : words.yourOwnAddressIs(ownDomain),
    },
    {
      to: '/team',
      title: words.addYourTeam,
      text: words.allMembersWithMail,
      done: team.members.length > 1,
    },
    {
      to: '/records/account/import',
      title: words.importYourRecords,
      text: words.accountsFirstThenContacts,
      done: arrival.records > 0 && !isSample,
    },
    {
      to: '/keep-out',
      title: words.keepOutWhatDoes,
      text: words.privateSendersSuppliersJob,
      done: keepOut.entries.length + keepOut.rules.length > 0,
    },
    {
      to: '/mailboxes/connect',
      title: common.connectAMailbox,
      text: words.everyPreconditionIsChecked,
      done: arrival.emails > 0 && !isSample,
    },
    {
      to: '/trials',
      title: words.tryTheRulesOn,
      text: words.aTrialShowsWhat,
      done: trials.trials.length > 0,
    },
    {
      to: '/versions',
      title: words.putYourRulesLive,
      text: words.forAPilotOf,
      done: rulebook.version > 1,
    },
  ];
}
