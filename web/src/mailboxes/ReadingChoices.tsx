import type { LookBackChoice, MailboxDetail } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useNavigate } from 'react-router';
import { call } from '../api/call';
import { useSession } from '../api/queries';
import { useLookBack, useTakeMailbox } from './queries';
import { Trouble } from '../parts/basics';
import { Form, FormEnd } from '../parts/form/Form';
import { useSentForm } from '../parts/form/useSentForm';
import { counted } from '../parts/numbers';
import { FolderList } from './FolderList';
import { common } from '../parts/words';
import { readingChoices as words } from './words';

const SPANS: Record<string, string> = { '30': '30 days', '90': '90 days', '365': words.oneYear, all: words.everything };
export const DIRECTIONS = [
  ['both', words.sentAndReceived],
  ['received', words.receivedOnly],
  ['sent', words.sentOnly],
] as const;

const keyOf = (choice: Pick<LookBackChoice, 'days'>): string => (choice.days === null ? 'all' : String(choice.days));

/** What is chosen before a mailbox is followed: folders and directions, how far back, and who may see its mail. */
export function ReadingChoices({ mailbox }: { mailbox: MailboxDetail }) {
  const take = useTakeMailbox();
  const isOwn = useSession().data?.user?.id === mailbox.ownerId;
  const go = useNavigate();
  const followed = mailbox.folders
    .filter((folder) => folder.followed)
    .map((folder) => folder.path)
    .join('\n');
  const lookBack = useLookBack(mailbox.id, true, followed);
  const put = useMutation({
    mutationFn: (settings: object) => call('putMailboxSettings', { id: mailbox.id, body: settings }),
    onSuccess: take,
  });
  const form = useSentForm({
    values: { days: '90', share: mailbox.share },
    send: async ({ days, share }) => {
      await call('putMailboxSettings', { id: mailbox.id, body: { readSinceDays: days === 'all' ? null : Number(days), share } });
      return call('startMailbox', { id: mailbox.id });
    },
    onDone: async (started) => {
      take(started);
      await go(`/mailboxes/${mailbox.id}`);
    },
  });
  const days = form.fields.watch('days');
  const chosen = lookBack.data?.choices.find((choice) => keyOf(choice) === days);
  return (
    <Form form={form} className="max-w-2xl space-y-6">
      <section aria-label={common.folders}>
        <h3 className="mb-1">{words.foldersAndDirections}</h3>
        <fieldset className="mb-2 flex flex-wrap gap-x-5">
          <legend className="sr-only">{words.directions}</legend>
          {DIRECTIONS.map(([value, label]) => (
            <label key={value} className="flex gap-2 py-0.5">
              <input
                type="radio"
                name="direction"
                checked={mailbox.direction === value}
                onChange={() => put.mutate({ direction: value })}
              />{' '}
              {label}
            </label>
          ))}
        </fieldset>
        <FolderList mailbox={mailbox} onChange={(settings) => put.mutate(settings)} />
        <Trouble error={put.error} />
      </section>
      <section aria-label={common.howFarBack}>
        <h3 className="mb-1">{common.howFarBack}</h3>
        {lookBack.isPending && <p className="text-muted">{words.countingAtTheServer}</p>}
        <Trouble error={lookBack.error} />
        <fieldset>
          <legend className="sr-only">{common.howFarBack}</legend>
          {(lookBack.data?.choices ?? []).map((choice) => (
            <label key={keyOf(choice)} className="flex gap-2 py-0.5">
              <input type="radio" value={keyOf(choice)} {...form.fields.register('days')} />
              <span className="w-28">{SPANS[keyOf(choice)] ?? words.days(choice.days ?? 0)}</span>
              <span className="tabular w-32 text-right">{counted(choice.emails, 'email')}</span>
              <span className="tabular text-muted">
                {choice.emails === 0 ? words.nothingToRead : words.aboutInTheBackground(choice.seconds)}
              </span>
            </label>
          ))}
        </fieldset>
        <p className="mt-1 text-sm text-muted">{words.theNewestComeFirst}</p>
      </section>
      <section aria-label={common.whoSeesIt}>
        <h3 className="mb-1">{words.whoMaySeeIts}</h3>
        <label className="flex gap-2 py-0.5">
          <input type="radio" value="owner" {...form.fields.register('share')} />
          <span>{words.untilYouChangeIt(mailbox.kind === 'shared' ? words.membersWhoUseThis : words.only(mailbox.owner))}</span>
        </label>
        <label className="flex gap-2 py-0.5">
          <input type="radio" value="rules" disabled={!isOwn} {...form.fields.register('share')} />
          <span>
            {words.asTheShareStep}
            {!isOwn && <span className="block text-sm text-muted">{words.onlyCanChooseThis(mailbox.owner)}</span>}
          </span>
        </label>
      </section>
      <FormEnd form={form} label={chosen && chosen.emails > 0 ? words.startAndReadEmail(chosen.emails) : words.start} />
    </Form>
  );
}
