import type { MailboxCheck, MailboxDetail } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { Check, Circle, LoaderCircle, X } from 'lucide-react';
import { call } from '../api/call';
import { useTakeMailbox } from './queries';
import { Button, Trouble } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { filled } from '../parts/filled';
import { checkList as texts } from './words';

/** The preconditions as they are tried in front of the person, one after the other. */
export function CheckList({ mailbox }: { mailbox: MailboxDetail }) {
  const take = useTakeMailbox();
  const tryFrom = useMutation({
    mutationFn: (step: MailboxCheck['step']) => call('checkMailbox', { id: mailbox.id, body: { from: step } }),
    onSuccess: take,
  });
  return (
    <>
      <ol aria-label={texts.checks} aria-live="polite" className="divide-y divide-line border-y border-line">
        {mailbox.checks.map((check) => (
          <li key={check.step} className="flex gap-3 px-1 py-1.5">
            <StateMark state={check.state} />
            <div className="min-w-0 grow">
              <span className={clsx('font-medium', check.state === 'waiting' && 'text-muted')}>{check.title}</span>
              {check.state === 'passed' && <span className="ml-2 text-sm break-words text-muted">{check.message}</span>}
              {check.state === 'running' && <span className="ml-2 text-sm text-muted">{texts.trying}</span>}
              {check.state === 'failed' && (
                <div role="alert" className="mt-1 max-w-prose">
                  <p className="font-semibold text-brick">{check.message}</p>
                  <p>{check.remedy}</p>
                  {check.said && (
                    <p className="mt-1 text-sm text-muted">
                      {filled(texts.theServerSaid, { said: <span className="font-mono text-[0.92em] break-words">{check.said}</span> })}
                    </p>
                  )}
                  <Button className="mt-2" disabled={tryFrom.isPending} onClick={() => tryFrom.mutate(check.step)}>
                    {texts.tryAgainFromHere}
                  </Button>
                </div>
              )}
            </div>
            {check.state === 'passed' && check.ms !== null && (
              <span className="tabular text-sm whitespace-nowrap text-muted">
                {check.ms < 1000 ? texts.ms(check.ms) : `${(check.ms / 1000).toFixed(1)} s`}
              </span>
            )}
          </li>
        ))}
      </ol>
      <Trouble error={tryFrom.error} />
    </>
  );
}

const STATES = { waiting: 'waits', running: texts.isBeingTried, passed: 'passed', failed: 'failed' } as const;

function StateMark({ state }: { state: MailboxCheck['state'] }) {
  const Icon = { waiting: Circle, running: LoaderCircle, passed: Check, failed: X }[state];
  const colour = { waiting: 'var(--line)', running: 'var(--spruce)', passed: 'var(--moss)', failed: 'var(--brick)' }[state];
  return (
    <Icon
      size={17}
      role="img"
      aria-label={STATES[state]}
      className={clsx('mt-0.5 shrink-0', state === 'running' && 'animate-spin')}
      style={{ color: colour }}
    />
  );
}
