import type { AccessToken, TokenScope, User } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { answersOf } from '../api/asked';
import { useState } from 'react';
import { useSessions } from './queries';
import { call } from '../api/call';
import { useTokens } from '../api/queries';
import { Button, Page, Trouble } from '../parts/basics';
import { CopyText } from '../parts/CopyText';
import { Form, FormEnd, SelectField, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { Option } from '../parts/Select';
import { DisplayChoice } from './DisplayChoice';
import { SecondFactor } from './SecondFactor';
import { SendingAddresses } from '../writing/SendingAddresses';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { accountPage as words } from './words';

/** What a member sets for themselves: password, second factor, where they are signed in, access tokens. */
export default function AccountPage({ user }: { user: User }) {
  return (
    <Page title={words.yourAccount} purpose={words.yourPasswordSecondFactor} wide>
      <p className="mb-5 text-muted">
        {user.name}, {user.email}, {user.role}
      </p>
      <div className="grid gap-x-10 gap-y-8 lg:grid-cols-2">
        <div className="space-y-8">
          <SecondFactor />
          <OwnPassword />
          {user.role !== 'viewer' && <SendingAddresses />}
          <DisplayChoice />
        </div>
        <div className="space-y-8">
          <Sessions />
          <Tokens user={user} />
        </div>
      </div>
    </Page>
  );
}

function OwnPassword() {
  const client = useQueryClient();
  const notice = useNotice();
  const form = useBodyForm('changeOwnPassword', {
    values: { current: '', password: '' },
    input: (body) => ({ body }),
    onDone: async () => {
      form.fields.reset();
      await client.invalidateQueries(answersOf('listSessions'));
      notice(words.thePasswordIsChanged);
    },
  });
  return (
    <section aria-label={common.password}>
      <h2 className="mb-1.5 text-lg">{common.password}</h2>
      <Form form={form}>
        <div className="grid gap-3 sm:grid-cols-2">
          <TextField form={form} name="current" label={words.passwordUntilNow} type="password" autoComplete="current-password" />
          <TextField form={form} name="password" label={words.newOneAtLeast} type="password" autoComplete="new-password" />
        </div>
        <FormEnd form={form} kind="plain" label={words.changeThePassword} />
      </Form>
    </section>
  );
}

function Sessions() {
  const sessions = useSessions();
  const client = useQueryClient();
  const notice = useNotice();
  const end = useMutation({
    mutationFn: (id: string) => call('endSession', { session: id }),
    onSuccess: async ({ ended }) => {
      await client.invalidateQueries(answersOf('listSessions'));
      notice(ended === 1 ? words.signedOutThere : words.signedOutInPlaces(ended));
    },
  });
  const list = sessions.data?.sessions ?? [];
  return (
    <section aria-label={words.whereYouAreSigned}>
      <h2 className="mb-1.5 text-lg">{words.whereYouAreSigned}</h2>
      <ul className="divide-y divide-line border-y border-line">
        {list.map((item) => (
          <li key={item.id} className="flex items-baseline gap-3 px-1 py-1.5">
            <span className="min-w-0 grow">
              {programName(item.program)} {item.current && <span className="text-spruce">{words.here}</span>}
              <span className="block text-sm text-muted">
                {filled(words.lastSeen, {
                  since: item.since && <>{filled(words.since, { since: <Moment at={item.since} /> })} </>,
                  lastSeenAt: <Moment at={item.lastSeenAt} />,
                })}
              </span>
            </span>
            {!item.current && (
              <Button kind="quiet" disabled={end.isPending} onClick={() => end.mutate(item.id)}>
                {words.signOut}
              </Button>
            )}
          </li>
        ))}
      </ul>
      {list.length > 1 && (
        <Button className="mt-2" disabled={end.isPending} onClick={() => end.mutate('others')}>
          {words.signOutEverywhereElse}
        </Button>
      )}
      <Trouble error={sessions.error ?? end.error} />
    </section>
  );
}

/** What a browser calls itself, in short. */
function programName(program: string): string {
  const name = /(Firefox|Edg|Chrome|Safari)\/(\d+)/.exec(program);
  const system = /\(([^;)]+)/.exec(program)?.[1];
  return name
    ? words.mark(name[1] === 'Edg' ? 'Edge' : (name[1] ?? ''), name[2] ?? '', system ? words.on(system) : '')
    : program || words.anUnknownProgram;
}

const SCOPE_LABELS: Record<string, { label: string; scopes: TokenScope[] }> = {
  read: { label: words.readOnly, scopes: ['read'] },
  write: { label: words.readAndChange, scopes: ['read', 'write'] },
  send: { label: words.readChangeAndSend, scopes: ['read', 'write', 'send'] },
  admin: { label: words.allThatYouMay, scopes: ['read', 'write', 'admin'] },
};

function Tokens({ user }: { user: User }) {
  const tokens = useTokens();
  const [made, setMade] = useState<string | null>(null);
  const client = useQueryClient();
  const again = (): Promise<void> => client.invalidateQueries(answersOf('listTokens'));
  const form = useBodyForm('createToken', {
    values: { name: '', scope: 'write', days: '90', password: '' },
    input: ({ name, scope, days, password }) => ({
      body: { name, scopes: SCOPE_LABELS[scope]?.scopes ?? ['read'], days: days === '' ? null : Number(days), password },
    }),
    onDone: async ({ token }) => {
      setMade(token);
      form.fields.reset();
      await again();
    },
  });
  const revoke = useMutation({ mutationFn: (token: AccessToken) => call('revokeToken', { id: token.id }), onSuccess: again });
  return (
    <section aria-label={words.accessTokens}>
      <h2 className="mb-1 text-lg">{words.yourAccessTokens}</h2>
      <p className="mb-2 text-muted">{words.forTheCommandLine}</p>
      <ul className="divide-y divide-line border-y border-line">
        {tokens.data?.tokens.map((token) => (
          <li key={token.id} className="flex items-baseline gap-3 px-1 py-1.5">
            <span className="min-w-0 grow">
              {token.name}
              <span className="block text-sm text-muted">
                {Object.values(SCOPE_LABELS).find((value) => value.scopes.join() === token.scopes.join())?.label ?? token.scopes.join(', ')}
                {token.expiresAt && filled(words.until, { expiresAt: <Moment at={token.expiresAt} /> })},{' '}
                {token.lastUsedAt ? filled(words.lastUsed, { lastUsedAt: <Moment at={token.lastUsedAt} /> }) : words.neverUsed}
              </span>
            </span>
            <Button kind="danger" onClick={() => revoke.mutate(token)}>
              {words.revoke}
            </Button>
          </li>
        ))}
        {tokens.data?.tokens.length === 0 && <li className="px-1 py-2 text-muted">{common.noneYet}</li>}
      </ul>
      {made && (
        <div role="status" className="mt-3 rounded border border-focus px-3 py-2">
          <div className="font-medium">{words.copyItNowIt}</div>
          <CopyText text={made} label={words.copyTheToken} />
        </div>
      )}
      <Form form={form} className="mt-3 space-y-3">
        <div className="grid gap-3 sm:grid-cols-2">
          <TextField form={form} name="name" label={words.nameOfANew} placeholder={words.laptop} />
          <SelectField form={form} name="scope" label={words.itMay}>
            {Object.entries(SCOPE_LABELS)
              .filter(([key]) => key !== 'admin' || user.role === 'admin')
              .map(([key, item]) => (
                <Option key={key} value={key}>
                  {item.label}
                </Option>
              ))}
          </SelectField>
          <SelectField form={form} name="days" label={words.goodFor}>
            <Option value="7">{words.of7Days}</Option>
            <Option value="30">{words.of30Days}</Option>
            <Option value="90">{words.of90Days}</Option>
            <Option value="365">{words.aYear}</Option>
            <Option value="">{words.untilRevoked}</Option>
          </SelectField>
          <TextField form={form} name="password" label={words.yourPassword} type="password" autoComplete="current-password" />
        </div>
        <FormEnd form={form} kind="plain" label={words.createToken} />
      </Form>
      <Trouble error={revoke.error ?? tokens.error} />
    </section>
  );
}
