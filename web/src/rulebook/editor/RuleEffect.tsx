import type { RuleChanges, RuleCount } from '@fulvet/contract';
import type { RuleStep } from '@fulvet/core';
import { ArrowRight } from 'lucide-react';
import { EmailCard } from '../../emails/EmailCard';
import { count, counted } from '../../parts/numbers';
import { OUTCOME_LABELS, OutcomeMark } from '../../parts/OutcomeMark';
import { useDecisionPanel } from '../../parts/useDecisionPanel';
import { useRuleChanges, useRuleCount } from '../queries';
import type { AnyRule } from './anyRule';
import { filled } from '../../parts/filled';
import { ruleEffect as words } from './words';

/** What a rule that is being edited takes of past mail, and what it would change of the newest of it. */
export function RuleEffect({ step, rule, isEmpty }: { step: RuleStep; rule: AnyRule; isEmpty: boolean }) {
  const counting = useRuleCount(step, rule, !isEmpty);
  // Older mail may still be read while the newest has been counted: what is found by then is tried, too.
  const changing = useRuleChanges(step, rule, counting.data?.took ?? 0, !isEmpty && counting.data !== undefined);
  if (isEmpty)
    return (
      <p role="status" className="mt-4 rounded bg-sunk px-3 py-2 text-muted">
        {words.addAConditionWhich}
      </p>
    );
  return (
    <>
      <div role="status" className="mt-4 space-y-1 rounded bg-sunk px-3 py-2">
        {counting.isError ? (
          <p className="text-brick">{counting.error.message}</p>
        ) : counting.data ? (
          <Took counted={counting.data} />
        ) : (
          <p>{words.counting}</p>
        )}
        {!counting.isError && changing.data && <Changes changes={changing.data} took={counting.data?.took ?? 0} />}
        {!counting.isError && !changing.data && !changing.isError && <p>{words.workingOutWhatWould}</p>}
      </div>
      {!counting.isError && changing.data && changing.data.examples.length > 0 && (
        <ChangedEmails examples={changing.data.examples.slice(0, MOST_SHOWN)} />
      )}
    </>
  );
}

const MOST_SHOWN = 5;

function Took({ counted: { took, of, first, read, total } }: { counted: RuleCount }) {
  return (
    <p>
      {filled(words.appliesToOf, {
        took: <strong className="tabular">{counted(took, 'past email')}</strong>,
        of: count(of),
        remaining: first < took && <span>{words.ofThemAreDecided(took - first)}</span>,
        read: read < total && <span className="text-muted"> {words.soFarTheNewest(read, total)}</span>,
      })}
    </p>
  );
}

function Changes({ changes, took }: { changes: RuleChanges; took: number }) {
  const { tried, changed, moves, newlySeen, noLongerSeen, created } = changes;
  if (tried === 0) return null;
  const all = tried === 1 ? words.thatEmail : tried === took ? words.theseEmails(tried) : words.theNewestOfThese(tried);
  if (changed === 0) return <p>{filled(words.itWouldChangeOf, { nothing: <strong>{words.nothing}</strong>, all })}</p>;
  const more = [
    ...(newlySeen > 0 ? [words.emailWouldBeSeen(newlySeen)] : []),
    ...(noLongerSeen > 0 ? [words.emailWouldBeSeenBy(noLongerSeen)] : []),
    ...(created > 0 ? [words.recordWouldBeCreated(created)] : []),
  ];
  return (
    <>
      <p>
        {filled(words.itWouldChangeSome, {
          changed: <strong className="tabular">{count(changed)}</strong>,
          all,
          more: more.length > 0 && `; ${more.join(', ')}`,
        })}
      </p>
      <ul aria-label={words.outcomesThatWouldChange} className="flex flex-wrap gap-x-5 gap-y-1 text-sm">
        {moves.map(({ before, after, emails }) => (
          <li key={`${before} ${after}`} className="flex items-center gap-1.5">
            <span className="tabular font-medium">{count(emails)}</span>
            <OutcomeMark outcome={before} label={false} /> {OUTCOME_LABELS[before]}
            {before === after ? (
              words.underOtherRecordsOr
            ) : (
              <>
                <ArrowRight size={13} aria-label={words.wouldBecome} className="text-muted" />
                <OutcomeMark outcome={after} label={false} /> {OUTCOME_LABELS[after]}
              </>
            )}
          </li>
        ))}
      </ul>
    </>
  );
}

function ChangedEmails({ examples }: { examples: RuleChanges['examples'] }) {
  const panel = useDecisionPanel();
  return (
    <ul aria-label={words.theNewestThatWould} className="mt-1">
      {examples.map(({ email, after }) => (
        <li key={email.id} className="flex items-center gap-1.5">
          <span className="min-w-0 grow">
            <EmailCard email={email} active={panel.openId === email.id} onOpen={() => panel.open(email.id)} />
          </span>
          <ArrowRight size={13} aria-label={words.wouldBecome} className="shrink-0 text-muted" />
          <OutcomeMark outcome={after} />
        </li>
      ))}
    </ul>
  );
}
