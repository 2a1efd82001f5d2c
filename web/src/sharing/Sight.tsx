import type { User } from '@fulvet/contract';
import { useState } from 'react';
import { useSight } from './queries';
import { useMailboxes, useTeam } from '../api/queries';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { Field, Trouble } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { Option, Select } from '../parts/Select';
import { Part } from './Part';
import { filled } from '../parts/filled';
import { sight as words } from './words';

/** What a member sees of a mailbox: of one's own, or as an administrator of any. */
export function Sight({ user }: { user: User }) {
  const team = useTeam();
  const mailboxes = useMailboxes();
  const docket = useDecisionPanel();
  const [member, setMember] = useState<number | null>(null);
  const [mailbox, setMailbox] = useState<number | null>(null);
  const own = (mailboxes.data?.mailboxes ?? []).filter((item) => user.role === 'admin' || item.ownerId === user.id);
  const sight = useSight(member, mailbox ?? own[0]?.id ?? null);
  if (own.length === 0) return null;
  return (
    <Part title={words.whatAColleagueSees} hint={words.askedOfTheDatabase}>
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label={words.whatDoes}>
          <Select value={member ?? ''} onValue={(value) => setMember(value === '' ? null : Number(value))}>
            <Option value="">{words.chooseAColleague}</Option>
            {team.data?.members
              .filter((item) => item.id !== user.id && item.active)
              .map((item) => (
                <Option key={item.id} value={item.id}>
                  {item.name}
                </Option>
              ))}
          </Select>
        </Field>
        <Field label={words.seeOf}>
          <Select value={mailbox ?? own[0]?.id ?? ''} onValue={(value) => setMailbox(Number(value))}>
            {own.map((item) => (
              <Option key={item.id} value={item.id}>
                {item.address}
              </Option>
            ))}
          </Select>
        </Field>
      </div>
      <Trouble error={sight.error} />
      {sight.data && (
        <>
          <p className="mt-2">
            {filled(words.readsKnowsOfMore, {
              reads: <strong>{sight.data.reads}</strong>,
              exists: <strong>{sight.data.exists}</strong>,
              nothing: <strong>{sight.data.nothing}</strong>,
            })}
          </p>
          <ul
            className="mt-1 max-h-80 divide-y divide-line overflow-y-auto border-y border-line text-sm"
            aria-label={words.emailsThatTheySee}
          >
            {sight.data.emails.map((email) => (
              <li key={email.email.id} className="px-1 py-1">
                <button type="button" className="text-left text-spruce hover:underline" onClick={() => docket.open(email.email.id)}>
                  {email.email.content?.subject ?? words.with(email.email.externalDomains.join(', ') || words.noOneOutside)}
                </button>{' '}
                <Moment at={email.email.at} className="text-muted" />
                <span className="block text-muted">
                  {email.reads ? words.readsIt : ''}
                  {email.why.join('; ')}
                </span>
              </li>
            ))}
          </ul>
          {sight.data.emails.length > 0 && sight.data.reads + sight.data.exists > sight.data.emails.length && (
            <p className="text-sm text-muted">{words.theNewestEmails(sight.data.emails.length)}</p>
          )}
        </>
      )}
    </Part>
  );
}
