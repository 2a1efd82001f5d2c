import type { RuleChanges, RuleCount } from '@fulvet/contract';
import type { RuleStep } from '@fulvet/core';
import { ArrowRight } from 'lucide-react';
import { EmailCard } from '../../emails/EmailCard';
import { count, counted } from '../../parts/numbers';
import { OUTCOME_LABELS, OutcomeMark } from '../../parts/OutcomeMark';
import { useDecisionPanel } from '../../parts/useDecisionPanel';
import { useRuleChanges, useRuleCount } from '../queries';
import type { AnyRule } from './anyRule';

/** What a rule that is being edited takes of past mail, and what it would change of the newest of it. */
export function RuleEffect({ step, rule, isEmpty }: { step: RuleStep; rule: AnyRule; isEmpty: boolean }) {
  const counting = useRuleCount(step, rule, !isEmpty);
  // Older mail may still be read while the newest has been counted: what is found by then is tried, too.
  const changing = useRuleChanges(step, rule, counting.data?.took ?? 0, !isEmpty && counting.data !== undefined);
  if (isEmpty)
    return (
      <p role="status" className="mt-4 rounded bg-sunk px-3 py-2 text-muted">
        Add a condition. Which past emails the rule applies to, and what it would change of them, is shown here.
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
          <p>Counting …</p>
        )}
        {!counting.isError && changing.data && <Changes changes={changing.data} took={counting.data?.took ?? 0} />}
        {!counting.isError && !changing.data && !changing.isError && <p>Working out what would change …</p>}
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
      Applies to <strong className="tabular">{counted(took, 'past email')}</strong> of {count(of)}
      {first < took && <span>; {count(took - first)} of them are decided by an earlier rule</span>}.
      {read < total && (
        <span className="text-muted">
          {' '}
          So far, the newest {count(read)} of {count(total)} emails have been read. Older ones follow.
        </span>
      )}
    </p>
  );
}

function Changes({ changes, took }: { changes: RuleChanges; took: number }) {
  const { tried, changed, moves, newlySeen, noLongerSeen, created } = changes;
  if (tried === 0) return null;
  const all = tried === 1 ? 'that email' : tried === took ? `these ${count(tried)} emails` : `the newest ${count(tried)} of these emails`;
  if (changed === 0)
    return (
      <p>
        It would change <strong>nothing</strong> of {all}.
      </p>
    );
  const more = [
    ...(newlySeen > 0 ? [`${counted(newlySeen, 'email')} would be seen by more members`] : []),
    ...(noLongerSeen > 0 ? [`${counted(noLongerSeen, 'email')} would be seen by fewer`] : []),
    ...(created > 0 ? [`${counted(created, 'record')} would be created`] : []),
  ];
  return (
    <>
      <p>
        It would change <strong className="tabular">{count(changed)}</strong> of {all}
        {more.length > 0 && `; ${more.join(', ')}`}.
      </p>
      <ul aria-label="Outcomes that would change" className="flex flex-wrap gap-x-5 gap-y-1 text-sm">
        {moves.map(({ before, after, emails }) => (
          <li key={`${before} ${after}`} className="flex items-center gap-1.5">
            <span className="tabular font-medium">{count(emails)}</span>
            <OutcomeMark outcome={before} label={false} /> {OUTCOME_LABELS[before]}
            {before === after ? (
              ' under other records, or seen by others'
            ) : (
              <>
                <ArrowRight size={13} aria-label="to" className="text-muted" />
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
    <ul aria-label="The newest that would change" className="mt-1">
      {examples.map(({ email, after }) => (
        <li key={email.id} className="flex items-center gap-1.5">
          <span className="min-w-0 grow">
            <EmailCard email={email} active={panel.openId === email.id} onOpen={() => panel.open(email.id)} />
          </span>
          <ArrowRight size={13} aria-label="would become" className="shrink-0 text-muted" />
          <OutcomeMark outcome={after} />
        </li>
      ))}
    </ul>
  );
}
