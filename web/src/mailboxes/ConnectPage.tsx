import type { MailboxDetail, User } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import type { ReactNode } from 'react';
import { Link, useNavigate, useParams, useSearchParams } from 'react-router';
import { call } from '../api/call';
import { isBeingTried, useMailbox, useServers, useTakeMailbox } from './queries';
import { useTeam } from '../api/queries';
import { Address, Button, Field, Page, Trouble, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { listOf } from '../parts/listOf';
import { Form, FormEnd, RadioField, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Option, Select } from '../parts/Select';
import { CheckList } from './CheckList';
import { ReadingChoices } from './ReadingChoices';
import { ServerForm } from './ServerForm';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { connectPage as words } from './words';

/** Connecting a mailbox, step by step in one screen: whose, where, how to sign in, tried in front of the person, what to read. */
export default function ConnectPage({ user }: { user: User }) {
  const text = useParams().id;
  const id = text === undefined ? null : Number(text);
  const mailbox = useMailbox(id);
  if (id !== null && mailbox.isPending) return <Waiting what={common.opening} />;
  return (
    <Page
      title={mailbox.data ? filled(words.connect, { address: <Address>{mailbox.data.address}</Address> }) : common.connectAMailbox}
      purpose={words.fulvetReadsAMailbox}
    >
      <Trouble error={mailbox.error} />
      {id === null && <NewMailbox user={user} />}
      {mailbox.data && <Connecting key={mailbox.data.id} mailbox={mailbox.data} />}
      <p className="mt-8 max-w-prose text-sm text-muted">{words.fulvetChangesNoFlag}</p>
    </Page>
  );
}

/** One numbered part of the screen. */
function Part({ number, title, done, children }: { number: number; title: string; done: boolean; children: ReactNode }) {
  return (
    <section aria-label={title} className="grid grid-cols-[2rem_minmax(0,1fr)] gap-x-3 pb-7">
      <span
        aria-hidden
        className={clsx(
          'grid size-7 place-items-center rounded-full border font-head font-semibold',
          done ? 'border-spruce bg-spruce text-onspruce' : 'border-muted text-muted',
        )}
      >
        {number}
      </span>
      <div className="min-w-0">
        <h2 className="mb-2 text-lg leading-7">{title}</h2>
        {children}
      </div>
    </section>
  );
}

const KINDS = [
  ['person', words.aPersonsOwn],
  ['shared', words.aSharedAddressAnswered],
  ['filing', words.forFilingMailSent],
] as const;

type Kind = (typeof KINDS)[number][0];

function NewMailbox({ user }: { user: User }) {
  const admin = user.role === 'admin';
  const [userIds, setUserIds] = useState<number[]>([]);
  const team = useTeam();
  const go = useNavigate();
  const members = team.data?.members ?? [];
  const form = useBodyForm('createMailbox', {
    values: { address: admin ? '' : user.email, kind: 'person' as Kind, ownerId: '', aliases: '' },
    input: (values) => ({
      body: {
        address: values.address.trim(),
        kind: values.kind,
        aliases: listOf(values.aliases),
        ...(admin && ownerOf(values) !== '' ? { ownerId: Number(ownerOf(values)) } : {}),
        ...(values.kind === 'shared' ? { userIds } : {}),
      },
    }),
    onDone: (made) => go(`/mailboxes/connect/${made.id}`),
  });
  /** Who was chosen, or else the member whose address it is. */
  const ownerOf = ({ address, ownerId }: { address: string; ownerId: string }): string =>
    ownerId || String(members.find((member) => member.email === address.trim().toLowerCase())?.id ?? '');
  const values = form.fields.watch();
  const { kind } = values;
  return (
    <Part number={1} title={words.whichMailbox} done={false}>
      <Form form={form} className="max-w-xl space-y-3">
        <TextField
          form={form}
          name="address"
          label={common.address}
          type="email"
          autoFocus
          autoComplete="off"
          className="font-mono"
          placeholder="name@our-domain.example"
        />
        {admin && (
          <>
            <RadioField form={form} name="kind" legend={words.whatKind} options={KINDS.map(([value, label]) => ({ value, label }))} />
            <Field label={kind === 'person' ? common.owner : words.whoLooksAfterIt}>
              <Select name="owner" value={ownerOf(values)} onValue={(value) => form.fields.setValue('ownerId', value)}>
                <Option value="">{words.you(user.name)}</Option>
                {members
                  .filter((member) => member.id !== user.id)
                  .map((member) => (
                    <Option key={member.id} value={member.id}>
                      {member.name}
                    </Option>
                  ))}
              </Select>
            </Field>
            {kind === 'shared' && (
              <fieldset>
                <legend className="mb-1 text-sm font-medium">{words.whoUsesItThey}</legend>
                <div className="grid gap-x-4 sm:grid-cols-2">
                  {members.map((member) => (
                    <label key={member.id} className="flex gap-2 py-0.5">
                      <input
                        type="checkbox"
                        checked={userIds.includes(member.id)}
                        onChange={(event) =>
                          setUserIds(event.target.checked ? [...userIds, member.id] : userIds.filter((known) => known !== member.id))
                        }
                      />{' '}
                      {member.name}
                    </label>
                  ))}
                </div>
              </fieldset>
            )}
          </>
        )}
        {kind === 'person' && (
          <TextField form={form} name="aliases" label={words.otherAddressesOfThe} hint={words.aliasesAreOursToo} className="font-mono" />
        )}
        <FormEnd form={form} label={words.findItsServer} />
      </Form>
    </Part>
  );
}

function Connecting({ mailbox }: { mailbox: MailboxDetail }) {
  const [params] = useSearchParams();
  const [editing, setEditing] = useState(false);
  const take = useTakeMailbox();
  const failed = mailbox.checks.find((check) => check.state === 'failed');
  const begun = mailbox.checks.some((check) => check.state !== 'waiting');
  const wantsForm = mailbox.connection === null || !mailbox.connection.hasSecret || editing;
  const refusedThere = params.get('signedIn') === 'refused' && !begun;
  const failedThere = params.get('signedIn') === 'failed' && !begun;
  return (
    <>
      <Part number={1} title={words.whichMailbox} done>
        <p>
          <Address>{mailbox.address}</Address>
          <span className="text-muted">{words.lookedAfterBy(mailbox.owner)}</span>
        </p>
      </Part>
      <Part number={2} title={words.whereItIsAnd} done={!wantsForm}>
        {refusedThere && <Trouble error={new Error(words.thePermissionWasNot)} />}
        {failedThere && <Trouble error={new Error(words.theProviderDidNot)} />}
        {wantsForm ? (
          <FoundForm
            mailbox={mailbox}
            onStored={(stored) => {
              setEditing(false);
              take(stored);
            }}
          />
        ) : (
          <p>
            {filled(words.as, {
              host: mailbox.connection?.imap.host,
              userName: mailbox.connection?.userName,
              byPermission: mailbox.connection?.signIn === 'redirect' && words.byPermissionOfThe,
            })}{' '}
            <Button className="ml-2" onClick={() => setEditing(true)}>
              {failed?.code === 'sign-in-refused' ? words.enterThePasswordAgain : words.change}
            </Button>
          </p>
        )}
      </Part>
      <Part number={3} title={words.tryingIt} done={mailbox.checked}>
        {begun || isBeingTried(mailbox) ? <CheckList mailbox={mailbox} /> : <p className="text-muted">{words.everyPreconditionIsTried}</p>}
      </Part>
      <Part number={4} title={words.whatToReadAnd} done={mailbox.startedAt !== null}>
        {FOLLOWED.has(mailbox.state) ? (
          <Followed mailbox={mailbox} />
        ) : mailbox.checked ? (
          <ReadingChoices mailbox={mailbox} />
        ) : (
          <p className="text-muted">{words.comesWhenEveryCheck}</p>
        )}
      </Part>
    </>
  );
}

const FOLLOWED = new Set(['running', 'paused', 'stopped']);

/** A mailbox that is followed already has its choices on its own page. */
function Followed({ mailbox }: { mailbox: MailboxDetail }) {
  const take = useTakeMailbox();
  const go = useNavigate();
  const start = useMutation({
    mutationFn: () => call('startMailbox', { id: mailbox.id }),
    onSuccess: async (started) => {
      take(started);
      await go(`/mailboxes/${mailbox.id}`);
    },
  });
  return (
    <>
      <p>
        {filled(words.whatItReadsAnd, {
          atThe: (
            <Link className="text-spruce underline" to={`/mailboxes/${mailbox.id}`}>
              {words.atTheMailbox}
            </Link>
          ),
        })}
      </p>
      {mailbox.state !== 'running' && (
        <Button kind="main" className="mt-2" disabled={!mailbox.checked || start.isPending} onClick={() => start.mutate()}>
          {words.goOnReading}
        </Button>
      )}
      <Trouble error={start.error} />
    </>
  );
}

/** The form, filled with what is stored, or with what is found out about the domain. */
function FoundForm({ mailbox, onStored }: { mailbox: MailboxDetail; onStored: (mailbox: MailboxDetail) => void }) {
  const find = useServers(mailbox.address, mailbox.connection === null);
  if (mailbox.connection === null && find.isPending) return <Waiting what={words.lookingForTheServer} />;
  return (
    <>
      <Trouble error={find.error} />
      <ServerForm mailbox={mailbox} found={find.data ?? null} onStored={onStored} />
    </>
  );
}
