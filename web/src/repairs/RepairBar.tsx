import type { EmailDetail, User } from '@fulvet/contract';
import { RULES } from '@fulvet/core';
import { useMemo } from 'react';
import { useRepair, useRepairs, useUndoRepair } from './queries';
import { Button } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { KIND_LABELS } from '../parts/people';
import type { Subject } from './useRepairKeys';
import { useRepairKeys } from './useRepairKeys';
import { common } from '../parts/words';
import { repairBar as texts } from './words';

/** What a person can do about one email, and what people did about it. */
export function RepairBar({ email, user }: { email: EmailDetail; user: User }) {
  const { owned } = email;
  const allowed = user.role !== 'viewer' && (email.content !== null || owned);
  const subject = useMemo(
    (): Subject | null => (allowed ? { emails: [email.id], filings: email.filings, owned } : null),
    [allowed, email.id, email.filings, owned],
  );
  const { dialog, open } = useRepairKeys(subject);
  if (user.role === 'viewer') return null;
  if (!subject) return <ByHand emailId={email.id} user={user} />;
  return (
    <section aria-label={texts.putItRight} className="mt-3">
      <div className="flex flex-wrap gap-1.5">
        <Button onClick={() => open('file')}>
          {texts.fileUnder} <Key>F</Key>
        </Button>
        <Button onClick={() => open('takeOff')} disabled={email.filings.length === 0 && email.questions.length === 0}>
          {texts.removeFromRecord} <Key>T</Key>
        </Button>
        <Button onClick={() => open('start')} disabled={email.content === null}>
          {texts.createRecords} <Key>N</Key>
        </Button>
        {owned && email.outcome !== 'sealed' && (
          <Button onClick={() => open('seal')}>
            {texts.seal} <Key>S</Key>
          </Button>
        )}
      </div>
      {email.filings.length > 0 && (
        <p className="mt-1.5 text-sm">
          <Choice
            label={texts.moveItFrom}
            shown={texts.moveFrom}
            value=""
            options={email.filings.map((filing) => ({
              value: `${filing.kind}:${filing.id}`,
              label: filing.name,
              hint: KIND_LABELS[filing.kind].one,
            }))}
            onChange={(key) =>
              open(
                'move',
                email.filings.find((filing) => `${filing.kind}:${filing.id}` === key),
              )
            }
          />{' '}
          {email.filings.length > 1 && <Principal email={email} />}
        </p>
      )}
      <ByHand emailId={email.id} user={user} />
      {dialog}
    </section>
  );
}

/** Which record is shown first; answers and forwards follow it. */
function Principal({ email }: { email: EmailDetail }) {
  const repair = useRepair();
  const principal = email.filings.find(({ rule }) => rule === RULES.principal);
  return (
    <Choice
      label={texts.principalRecord}
      shown={principal ? texts.principalIs(principal.name) : texts.choosePrincipal}
      value={principal ? `${principal.kind}:${principal.id}` : ''}
      options={email.filings.map(({ kind, id, name }) => ({ value: `${kind}:${id}`, label: name, hint: KIND_LABELS[kind].one }))}
      onChange={(key) => {
        const chosen = email.filings.find(({ kind, id }) => `${kind}:${id}` === key);
        if (chosen && chosen !== principal)
          repair.mutate({ emails: [email.id], reach: 'onward', principal: { kind: chosen.kind, id: chosen.id } });
      }}
    />
  );
}

function Key({ children }: { children: string }) {
  return <kbd className="ml-0.5 font-mono text-xs text-muted">{children}</kbd>;
}

/** What people said about the email, each with a way to take it back. */
function ByHand({ emailId, user }: { emailId: number; user: User }) {
  const repairs = useRepairs(emailId);
  const undo = useUndoRepair();
  const notice = useNotice();
  const standing = repairs.data?.repairs.filter((repair) => !repair.undone) ?? [];
  if (standing.length === 0) return null;
  return (
    <ul className="mt-2 space-y-1 border-l-2 border-line pl-2.5 text-sm" aria-label={texts.decidedByHand}>
      {standing.map((item) => (
        <li key={item.id} className="flex items-baseline gap-2">
          <span className="min-w-0 grow break-words">
            {item.summary}{' '}
            <span className="text-muted">
              · {item.mine ? texts.you : item.by}, <Moment at={item.at} />
            </span>
          </span>
          {(item.mine || user.role === 'admin') && (
            <button
              type="button"
              className="text-spruce hover:underline"
              onClick={() =>
                void undo(item.id).catch((error: unknown) => notice(error instanceof Error ? error.message : texts.thatCouldNotBe))
              }
            >
              {common.undo}
            </button>
          )}
        </li>
      ))}
    </ul>
  );
}
