import type { MailboxDetail, User } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { listOf } from '../parts/listOf';
import { call } from '../api/call';
import { useTakeMailbox } from './queries';
import { useTeam } from '../api/queries';
import { Trouble } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { LineForm } from '../parts/form/LineForm';
import { useNotice } from '../parts/Notices';
import { FolderList } from './FolderList';
import { DIRECTIONS } from './ReadingChoices';

const SPANS = [
  { value: 'stored', label: 'as it is' },
  { value: '30', label: '30 days' },
  { value: '90', label: '90 days' },
  { value: '365', label: 'one year' },
  { value: 'all', label: 'everything' },
] as const;

/** What a mailbox reads and who sees it, as sentences that are edited in place. */
export function MailboxSettings({ mailbox, user }: { mailbox: MailboxDetail; user: User }) {
  const take = useTakeMailbox();
  const notice = useNotice();
  const put = useMutation({
    mutationFn: (settings: object) => call('putMailboxSettings', { id: mailbox.id, body: settings }),
    onSuccess: (stored) => {
      take(stored);
      notice('Changed. It is in force at once.');
    },
  });
  const change = (settings: object): void => put.mutate(settings);
  const since = mailbox.readSince === null ? 'all' : 'stored';
  const sinceWords = mailbox.readSince === null ? 'everything' : `since ${mailbox.readSince.slice(0, 10)}`;
  return (
    <section aria-label="What it reads">
      <h2 className="mb-2 text-lg">What it reads, and who sees it</h2>
      <ul className="mb-4 space-y-1.5">
        <li>
          Mail that is{' '}
          <Choice
            label="Directions"
            value={mailbox.direction}
            options={DIRECTIONS.map(([value, label]) => ({ value, label }))}
            onChange={(direction) => change({ direction })}
          />{' '}
          is read, back to{' '}
          <Choice
            label="How far back"
            value={since}
            options={SPANS.filter((span) => span.value !== 'stored' || since === 'stored').map((span) =>
              span.value === 'stored' ? { value: span.value, label: sinceWords } : span,
            )}
            onChange={(value) => value !== 'stored' && change({ readSinceDays: value === 'all' ? null : Number(value) })}
          />
          .
        </li>
        <li>
          Of it,{' '}
          <Choice
            label="What comes in"
            value={mailbox.takeIn}
            options={[
              { value: 'rules', label: 'the rules of the Take in step', hint: 'As for all mailboxes.' },
              { value: 'known', label: 'only mail with known people', hint: 'Where the Take in step takes it in.' },
              { value: 'byHand', label: 'by hand only', hint: 'Every email is left to its owner.' },
            ]}
            onChange={(takeIn) => change({ takeIn })}
          />{' '}
          comes in.
        </li>
        <li>
          Its mail is seen by{' '}
          <Choice
            label="Who sees it"
            value={mailbox.share}
            options={[
              {
                value: 'owner',
                label: mailbox.kind === 'shared' ? 'those who use the address' : `${mailbox.owner} only`,
                hint: 'Colleagues do not see it, wherever it is filed.',
              },
              { value: 'rules', label: 'as the Share step says', hint: 'Unfiled mail always stays private.' },
            ]}
            onChange={(share) => change({ share })}
          />
          .
        </li>
        {user.role === 'admin' && (
          <li>
            Emails that are filed{' '}
            <Choice
              label="Marking"
              value={mailbox.markFiled ? 'yes' : 'no'}
              options={[
                { value: 'no', label: 'are not marked', hint: 'Nothing is ever changed in the mailbox.' },
                {
                  value: 'yes',
                  label: 'get the keyword Fulvet-filed',
                  hint: 'This is the only thing Fulvet writes there. Any mail program can show it.',
                },
              ]}
              onChange={(value) => change({ markFiled: value === 'yes' })}
            />{' '}
            in the mailbox.
          </li>
        )}
      </ul>
      {mailbox.kind === 'person' && <Aliases mailbox={mailbox} onChange={change} />}
      {mailbox.kind === 'shared' && <Users mailbox={mailbox} onChange={change} />}
      <h3 className="mt-5 mb-1">Folders</h3>
      <p className="mb-2 max-w-prose text-sm text-muted">
        A mailbox folder can be linked to a record: emails moved there, in any mail program, are filed under it.
      </p>
      <FolderList mailbox={mailbox} onChange={change} />
      <Trouble error={put.error} />
    </section>
  );
}

function Aliases({ mailbox, onChange }: { mailbox: MailboxDetail; onChange: (settings: object) => void }) {
  const stored = mailbox.aliases.join(', ');
  return (
    <>
      <h3 className="mb-1 text-sm font-medium">Other addresses of the same person</h3>
      <LineForm
        key={stored}
        className="max-w-xl"
        label="Other addresses of the same person"
        button="Save"
        value={stored}
        placeholder="none"
        isMono
        stays
        isReady={(text) => text !== stored}
        onSend={(text) => onChange({ aliases: listOf(text) })}
      />
    </>
  );
}

function Users({ mailbox, onChange }: { mailbox: MailboxDetail; onChange: (settings: object) => void }) {
  const team = useTeam();
  const using = new Set(mailbox.users.map((user) => user.id));
  return (
    <fieldset>
      <legend className="mb-1 text-sm font-medium">Who uses it, and sees its mail</legend>
      <div className="grid max-w-xl gap-x-4 sm:grid-cols-2">
        {team.data?.members.map((member) => (
          <label key={member.id} className="flex gap-2 py-0.5">
            <input
              type="checkbox"
              checked={using.has(member.id)}
              onChange={(event) =>
                onChange({ userIds: event.target.checked ? [...using, member.id] : [...using].filter((id) => id !== member.id) })
              }
            />{' '}
            {member.name}
          </label>
        ))}
      </div>
    </fieldset>
  );
}
