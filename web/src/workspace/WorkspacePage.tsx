import type { RetentionKind, RetentionRule, Workspace, WorkspaceChange } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { useEffect, useState } from 'react';
import { useRetention, useWorkspace } from './queries';
import { useSharing } from '../sharing/queries';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Button, Page, TextInput, Trouble, Waiting } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { Form, FormEnd, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import { Person } from './Person';

/** Settings of everyone: whose records are seen, how far owners may share, how one signs in, how long mail is kept, who is forgotten. */
export default function WorkspacePage() {
  const workspace = useWorkspace();
  if (!workspace.data) return workspace.error ? <Trouble error={workspace.error} /> : <Waiting what="Reading" />;
  return (
    <Page title="Workspace settings" purpose="Settings for everyone: what members see, how they sign in, how long mail is kept." wide>
      <div className="grid gap-x-10 gap-y-8 lg:grid-cols-2">
        <div className="space-y-8">
          <Policy workspace={workspace.data} />
          <Provider key={workspace.data.identityProvider?.issuer ?? ''} workspace={workspace.data} />
        </div>
        <div className="space-y-8">
          <Retention />
          <Person />
        </div>
      </div>
    </Page>
  );
}

const REACH = [
  { value: 'all', label: 'everyone’s', hint: 'All members see all records.' },
  { value: 'team', label: 'those of their teams', hint: 'Their own, their teams’, those without an owner, and deals that they work on.' },
  {
    value: 'owner',
    label: 'their own',
    hint: 'Their own, those without an owner, and deals that they work on. Managers see those of their teams.',
  },
] as const;
const WIDEST = [
  { value: 'everyone', label: 'everyone', hint: 'As wide as they like.' },
  { value: 'teams', label: 'teams', hint: 'Named teams at the widest, or single colleagues.' },
  { value: 'record', label: 'those who own its records', hint: 'Or single colleagues.' },
  { value: 'owner', label: 'no one', hint: 'By hand nothing is shared; narrowing and sealing is always theirs.' },
] as const;

function Policy({ workspace }: { workspace: Workspace }) {
  const save = useSharing(
    (change: WorkspaceChange) => call('putWorkspace', { body: change }),
    () => 'Saved. It applies from now on.',
  );
  const refresh = useRefreshAll();
  const notice = useNotice();
  const renaming = useBodyForm('putWorkspace', {
    values: { name: workspace.name },
    input: (body) => ({ body }),
    onDone: async () => {
      await refresh();
      notice('Saved. It applies from now on.');
    },
  });
  return (
    <section aria-label="Policy">
      <h2 className="mb-1.5 text-lg">Who sees what</h2>
      <ul className="space-y-2">
        <li>
          Members see{' '}
          <Choice
            label="Which records members see"
            value={workspace.recordReach}
            options={REACH}
            onChange={(recordReach) => save.mutate({ recordReach })}
          />{' '}
          records.
        </li>
        <li>
          Owners of mailboxes may share by hand with{' '}
          <Choice
            label="How far owners may share"
            value={workspace.widestShare}
            options={WIDEST}
            onChange={(widestShare) => save.mutate({ widestShare })}
          />
          .
        </li>
        <li>
          At sign-in a second factor is{' '}
          <Choice
            label="Second factor"
            value={workspace.secondFactorNeeded ? 'needed' : 'free'}
            options={[
              { value: 'free', label: 'up to each member', hint: 'Members set one up under Your account, or not.' },
              {
                value: 'needed',
                label: 'required for everyone',
                hint: 'Who has none sets one up at the next sign-in, before anything else.',
              },
            ]}
            onChange={(needed) => save.mutate({ secondFactorNeeded: needed === 'needed' })}
          />
          .
        </li>
      </ul>
      <Form form={renaming} className="mt-3 flex items-end gap-2">
        <div className="grow">
          <TextField form={renaming} name="name" label="Name of the workspace" />
        </div>
        <FormEnd form={renaming} kind="plain" label="Rename" disabled={renaming.fields.watch('name') === workspace.name} />
      </Form>
      <Trouble error={save.error} />
    </section>
  );
}

function Provider({ workspace }: { workspace: Workspace }) {
  const known = workspace.identityProvider;
  const refresh = useRefreshAll();
  const notice = useNotice();
  const form = useBodyForm('putWorkspace', {
    values: { issuer: known?.issuer ?? '', clientId: known?.clientId ?? '', label: known?.label ?? '', clientSecret: '' },
    input: ({ clientSecret, ...shown }) => ({
      body: { identityProvider: { ...shown, ...(clientSecret === '' && known ? {} : { clientSecret }) } },
    }),
    onDone: async (_, { label }) => {
      await refresh();
      notice(`Members can sign in at ${label}.`);
    },
  });
  const end = useSharing(
    () => call('putWorkspace', { body: { identityProvider: null } }),
    () => 'Members sign in by password.',
  );
  return (
    <section aria-label="Identity provider">
      <h2 className="text-lg">Sign in elsewhere</h2>
      <p className="mb-2 text-sm text-muted">
        By OpenID Connect. Members are known by the address that the provider vouches for; no one joins the team that way. Give the provider
        this address to send people back to:{' '}
        <span className="font-mono text-[0.92em] break-all">{window.location.origin}/api/v1/session/provider/return</span>
      </p>
      <Form form={form}>
        <TextField form={form} name="issuer" label="Issuer" type="url" placeholder="https://id.quillmere.example" className="font-mono" />
        <div className="grid gap-3 sm:grid-cols-2">
          <TextField form={form} name="clientId" label="Client id" />
          <TextField
            form={form}
            name="clientSecret"
            label={known ? 'Client secret (kept, if left empty)' : 'Client secret'}
            type="password"
            autoComplete="off"
          />
        </div>
        <TextField form={form} name="label" label="What the button is called" placeholder="Quillmere account" />
        <Trouble error={end.error} />
        <div className="flex items-start gap-2">
          <FormEnd form={form} kind="plain" label="Save" />
          {known && (
            <Button kind="danger" disabled={end.isPending} onClick={() => end.mutate(undefined)}>
              Sign in by password only
            </Button>
          )}
        </div>
      </Form>
    </section>
  );
}

const KINDS: Record<RetentionKind, { title: string; what: string }> = {
  keptOut: { title: 'Facts of kept-out mail', what: 'Time, direction, class and domains of mail that stayed out.' },
  unfiled: { title: 'Unfiled mail', what: 'Mail that is unfiled and that no one has filed by hand.' },
  closedDeals: {
    title: 'Mail of closed deals',
    what: 'Counted from the day the deal was closed. Mail that is also under an open deal stays.',
  },
};

function Retention() {
  const rules = useRetention();
  const run = useSharing(
    () => call('runRetention'),
    () => 'Done. What was older is gone, sources and all.',
  );
  const due = rules.data?.rules.reduce((sum, rule) => sum + rule.wouldGo, 0) ?? 0;
  return (
    <section aria-label="How long mail is kept">
      <h2 className="text-lg">How long mail is kept</h2>
      <p className="mb-2 text-sm text-muted">
        What is older goes once a day, with its source. Mail in the mailboxes themselves is never touched.
      </p>
      <ul className="divide-y divide-line border-y border-line">
        {rules.data?.rules.map((rule) => (
          <Rule key={`${rule.kind}${rule.days ?? ''}`} rule={rule} />
        ))}
      </ul>
      <Trouble error={rules.error ?? run.error} />
      {due > 0 && (
        <Button kind="danger" className="mt-2" disabled={run.isPending} onClick={() => run.mutate(undefined)}>
          Delete {counted(due, 'email')} now
        </Button>
      )}
    </section>
  );
}

function Rule({ rule }: { rule: RetentionRule }) {
  const [days, setDays] = useState(rule.days === null ? '' : String(rule.days));
  const [wanted, setWanted] = useState(days);
  useEffect(() => {
    const timer = window.setTimeout(() => setWanted(days), 250);
    return () => window.clearTimeout(timer);
  }, [days]);
  const preview = useQuery({
    ...asked('previewRetention', { kind: rule.kind, days: wanted }),
    enabled: /^[1-9]\d{0,4}$/.test(wanted),
  });
  const save = useSharing(
    (value: number | null) => call('putRetention', { body: { kind: rule.kind, days: value } }),
    (value) => (value === null ? `${KINDS[rule.kind].title}: kept for ever.` : `${KINDS[rule.kind].title}: kept for ${value} days.`),
  );
  const changed = days !== (rule.days === null ? '' : String(rule.days));
  return (
    <li className="px-1 py-2">
      <div className="flex flex-wrap items-center gap-2">
        <span className="min-w-0 grow basis-52">
          <span className="font-medium">{KINDS[rule.kind].title}</span>
          <span className="block text-sm text-muted">{KINDS[rule.kind].what}</span>
        </span>
        <label className="flex items-center gap-1.5">
          <TextInput
            aria-label={`Days that ${KINDS[rule.kind].title.toLowerCase()} is kept`}
            inputMode="numeric"
            className="w-20! text-right"
            placeholder="ever"
            value={days}
            onChange={(event) => setDays(event.target.value.replace(/\D/g, ''))}
          />
          days
        </label>
        <Button disabled={!changed || save.isPending} onClick={() => save.mutate(days === '' ? null : Number(days))}>
          Save
        </Button>
      </div>
      {days !== '' && preview.data && (
        <p className="mt-1 text-sm text-muted" aria-live="polite">
          {preview.data.wouldGo === 0
            ? 'Nothing would be deleted now.'
            : `${counted(preview.data.wouldGo, 'email', 'emails')} would go, the oldest of `}
          {preview.data.oldest && <Moment at={preview.data.oldest} />}
        </p>
      )}
      <Trouble error={save.error ?? preview.error} />
    </li>
  );
}
