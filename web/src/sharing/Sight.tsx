import type { User } from '@fulvet/contract';
import { useState } from 'react';
import { useSight } from './queries';
import { useMailboxes, useTeam } from '../api/queries';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { Field, Trouble } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { counted } from '../parts/numbers';
import { Option, Select } from '../parts/Select';
import { Part } from './Part';

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
    <Part title="What a colleague sees" hint="Asked of the database itself, as that colleague.">
      <div className="grid gap-3 sm:grid-cols-2">
        <Field label="What does">
          <Select value={member ?? ''} onValue={(value) => setMember(value === '' ? null : Number(value))}>
            <Option value="">Choose a colleague …</Option>
            {team.data?.members
              .filter((item) => item.id !== user.id && item.active)
              .map((item) => (
                <Option key={item.id} value={item.id}>
                  {item.name}
                </Option>
              ))}
          </Select>
        </Field>
        <Field label="see of">
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
            Reads <strong>{sight.data.reads}</strong>, knows of <strong>{sight.data.exists}</strong> more that they exist, and learns
            nothing of <strong>{sight.data.nothing}</strong>.
          </p>
          <ul className="mt-1 max-h-80 divide-y divide-line overflow-y-auto border-y border-line text-sm" aria-label="Emails that they see">
            {sight.data.emails.map((email) => (
              <li key={email.email.id} className="px-1 py-1">
                <button type="button" className="text-left text-spruce hover:underline" onClick={() => docket.open(email.email.id)}>
                  {email.email.content?.subject ?? `with ${email.email.externalDomains.join(', ') || 'no one outside'}`}
                </button>{' '}
                <Moment at={email.email.at} className="text-muted" />
                <span className="block text-muted">
                  {email.reads ? 'reads it: ' : ''}
                  {email.why.join('; ')}
                </span>
              </li>
            ))}
          </ul>
          {sight.data.emails.length > 0 && sight.data.reads + sight.data.exists > sight.data.emails.length && (
            <p className="text-sm text-muted">The newest {counted(sight.data.emails.length, 'email', 'emails')}.</p>
          )}
        </>
      )}
    </Part>
  );
}
