import type { MailboxDetail, User } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { listOf } from '../parts/listOf';
import { call } from '../api/call';
import { useTakeMailbox } from './queries';
import { useTeam, useWorkspace } from '../api/queries';
import { Trouble } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { LineForm } from '../parts/form/LineForm';
import { useNotice } from '../parts/Notices';
import { FolderList } from './FolderList';
import { DIRECTIONS } from './ReadingChoices';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { mailboxSettings as words } from './words';

const SPANS = [
  { value: 'stored', label: words.asItIs },
  { value: '30', label: '30 days' },
  { value: '90', label: '90 days' },
  { value: '365', label: words.oneYear },
  { value: 'all', label: words.everything },
] as const;

/** What a mailbox reads and who sees it, as sentences that are edited in place. */
export function MailboxSettings({ mailbox, user }: { mailbox: MailboxDetail; user: User }) {
  const take = useTakeMailbox();
  const isMeasuring = useWorkspace().data?.measuring.isOn ?? false;
  const notice = useNotice();
  const put = useMutation({
    mutationFn: (settings: object) => call('putMailboxSettings', { id: mailbox.id, body: settings }),
    onSuccess: (stored) => {
      take(stored);
      notice(words.changedItIsIn);
    },
  });
  const change = (settings: object): void => put.mutate(settings);
  const since = mailbox.readSince === null ? 'all' : 'stored';
  const sinceWords = mailbox.readSince === null ? 'everything' : words.since(mailbox.readSince.slice(0, 10));
  return (
    <section aria-label={words.whatItReads}>
      <h2 className="mb-2 text-lg">{words.whatItReadsAnd}</h2>
      <ul className="mb-4 space-y-1.5">
        <li>
          {filled(words.mailThatIsIs, {
            directions: (
              <Choice
                label={words.directions}
                value={mailbox.direction}
                options={DIRECTIONS.map(([value, label]) => ({ value, label }))}
                onChange={(direction) => change({ direction })}
              />
            ),
            howFar: (
              <Choice
                label={common.howFarBack}
                value={since}
                options={SPANS.filter((span) => span.value !== 'stored' || since === 'stored').map((span) =>
                  span.value === 'stored' ? { value: span.value, label: sinceWords } : span,
                )}
                onChange={(value) => value !== 'stored' && change({ readSinceDays: value === 'all' ? null : Number(value) })}
              />
            ),
          })}
        </li>
        <li>
          {filled(words.ofItComesIn, {
            whatComes: (
              <Choice
                label={words.whatComesIn}
                value={mailbox.takeIn}
                options={[
                  { value: 'rules', label: words.theRulesOfThe, hint: words.asForAllMailboxes },
                  { value: 'known', label: words.onlyMailWithKnown, hint: words.whereTheTakeIn },
                  { value: 'byHand', label: words.byHandOnly, hint: words.everyEmailIsLeft },
                ]}
                onChange={(takeIn) => change({ takeIn })}
              />
            ),
          })}
        </li>
        <li>
          {filled(words.itsMailIsSeen, {
            whoSees: (
              <Choice
                label={common.whoSeesIt}
                value={mailbox.share}
                options={[
                  {
                    value: 'owner',
                    label: mailbox.kind === 'shared' ? words.thoseWhoUseThe : words.only(mailbox.owner),
                    hint: words.colleaguesDoNotSee,
                  },
                  { value: 'rules', label: words.asTheShareStep, hint: words.unfiledMailAlwaysStays },
                ]}
                onChange={(share) => change({ share })}
              />
            ),
          })}
        </li>
        {mailbox.kind === 'shared' && (
          <li>
            {filled(words.itIsSentFrom, {
              senders: (
                <Choice
                  label={words.whoSendsFromIt}
                  value={mailbox.usersSend ? 'users' : 'owner'}
                  options={[
                    { value: 'owner', label: words.only(mailbox.owner), hint: words.othersReadIt },
                    { value: 'users', label: words.thoseWhoUseThe, hint: words.theyWriteFromFulvet },
                  ]}
                  onChange={(value) => change({ usersSend: value === 'users' })}
                />
              ),
            })}
          </li>
        )}
        {isMeasuring && mailbox.kind !== 'imported' && (
          <li>
            {filled(words.openingsAreCounted, {
              counting: (
                <Choice
                  label={words.countingOpenings}
                  value={mailbox.measures ? 'yes' : 'no'}
                  options={[
                    { value: 'no', label: words.areNotCounted, hint: words.noOneLearns },
                    { value: 'yes', label: words.mayBeCounted, hint: words.whereTheWorkspace },
                  ]}
                  onChange={(value) => change({ measures: value === 'yes' })}
                />
              ),
            })}
          </li>
        )}
        {user.role === 'admin' && (
          <li>
            {filled(words.emailsThatAreFiled, {
              marking: (
                <Choice
                  label={words.marking}
                  value={mailbox.markFiled ? 'yes' : 'no'}
                  options={[
                    { value: 'no', label: words.areNotMarked, hint: words.nothingIsEverChanged },
                    {
                      value: 'yes',
                      label: words.getTheKeywordFulvet,
                      hint: words.thisIsTheOnly,
                    },
                  ]}
                  onChange={(value) => change({ markFiled: value === 'yes' })}
                />
              ),
            })}
          </li>
        )}
      </ul>
      {mailbox.kind === 'person' && <Aliases mailbox={mailbox} onChange={change} />}
      {mailbox.kind === 'shared' && <Users mailbox={mailbox} onChange={change} />}
      <h3 className="mt-5 mb-1">{common.folders}</h3>
      <p className="mb-2 max-w-prose text-sm text-muted">{words.aMailboxFolderCan}</p>
      <FolderList mailbox={mailbox} onChange={change} />
      <Trouble error={put.error} />
    </section>
  );
}

function Aliases({ mailbox, onChange }: { mailbox: MailboxDetail; onChange: (settings: object) => void }) {
  const stored = mailbox.aliases.join(', ');
  return (
    <>
      <h3 className="mb-1 text-sm font-medium">{words.otherAddressesOfThe}</h3>
      <LineForm
        key={stored}
        className="max-w-xl"
        label={words.otherAddressesOfThe}
        button={common.save}
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
      <legend className="mb-1 text-sm font-medium">{words.whoUsesItAnd}</legend>
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
