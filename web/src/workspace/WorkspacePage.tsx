import type { RetentionKind, RetentionRule, Workspace, WorkspaceChange } from '@fulvet/contract';
import { useQuery } from '@tanstack/react-query';
import { asked } from '../api/asked';
import { useEffect, useState } from 'react';
import { useRetention } from './queries';
import { useSharing } from '../sharing/useSharing';
import { call } from '../api/call';
import { useRefreshAll, useWorkspace } from '../api/queries';
import { Button, Page, TextInput, Trouble, Waiting } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { Form, FormEnd, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { AutomaticSending } from './AutomaticSending';
import { LinkAddress } from './LinkAddress';
import { Measuring } from './Measuring';
import { Person } from './Person';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { WritingRights } from './WritingRights';
import { workspacePage as words } from './words';

/** Settings of everyone: whose records are seen, how far owners may share, how one signs in, how long mail is kept, who is forgotten. */
export default function WorkspacePage() {
  const workspace = useWorkspace();
  if (!workspace.data) return workspace.error ? <Trouble error={workspace.error} /> : <Waiting what={common.reading} />;
  return (
    <Page title={words.workspaceSettings} purpose={words.settingsForEveryoneWhat} wide>
      <div className="grid gap-x-10 gap-y-8 lg:grid-cols-2">
        <div className="space-y-8">
          <Policy workspace={workspace.data} />
          <WritingRights workspace={workspace.data} />
          <LinkAddress key={`links ${workspace.data.linkAddress ?? ''}`} workspace={workspace.data} />
          <Measuring key={JSON.stringify(workspace.data.measuring)} workspace={workspace.data} />
          <Provider key={workspace.data.identityProvider?.issuer ?? ''} workspace={workspace.data} />
        </div>
        <div className="space-y-8">
          <Retention />
          <AutomaticSending workspace={workspace.data} />
          <Person />
        </div>
      </div>
    </Page>
  );
}

const REACH = [
  { value: 'all', label: words.everyones, hint: words.allMembersSeeAll },
  { value: 'team', label: words.thoseOfTheirTeams, hint: words.theirOwnTheirTeams },
  {
    value: 'owner',
    label: words.theirOwn,
    hint: words.theirOwnThoseWithout,
  },
] as const;
const WIDEST = [
  { value: 'everyone', label: words.everyone, hint: words.asWideAsThey },
  { value: 'teams', label: words.teams, hint: words.namedTeamsAtThe },
  { value: 'record', label: common.thoseWhoOwnIts, hint: words.orSingleColleagues },
  { value: 'owner', label: common.noOne, hint: words.byHandNothingIs },
] as const;

function Policy({ workspace }: { workspace: Workspace }) {
  const save = useSharing(
    (change: WorkspaceChange) => call('putWorkspace', { body: change }),
    () => words.savedItAppliesFrom,
  );
  const refresh = useRefreshAll();
  const notice = useNotice();
  const renaming = useBodyForm('putWorkspace', {
    values: { name: workspace.name },
    input: (body) => ({ body }),
    onDone: async () => {
      await refresh();
      notice(words.savedItAppliesFrom);
    },
  });
  return (
    <section aria-label={words.policy}>
      <h2 className="mb-1.5 text-lg">{words.whoSeesWhat}</h2>
      <ul className="space-y-2">
        <li>
          {filled(words.membersSeeRecords, {
            whichRecords: (
              <Choice
                label={words.whichRecordsMembersSee}
                value={workspace.recordReach}
                options={REACH}
                onChange={(recordReach) => save.mutate({ recordReach })}
              />
            ),
          })}
        </li>
        <li>
          {filled(words.ownersOfMailboxesMay, {
            howFar: (
              <Choice
                label={words.howFarOwnersMay}
                value={workspace.widestShare}
                options={WIDEST}
                onChange={(widestShare) => save.mutate({ widestShare })}
              />
            ),
          })}
        </li>
        <li>
          {filled(words.atSignInA, {
            secondFactor: (
              <Choice
                label={words.secondFactor}
                value={workspace.secondFactorNeeded ? 'needed' : 'free'}
                options={[
                  { value: 'free', label: words.upToEachMember, hint: words.membersSetOneUp },
                  {
                    value: 'needed',
                    label: words.requiredForEveryone,
                    hint: words.whoHasNoneSets,
                  },
                ]}
                onChange={(needed) => save.mutate({ secondFactorNeeded: needed === 'needed' })}
              />
            ),
          })}
        </li>
      </ul>
      <Form form={renaming} className="mt-3 flex items-end gap-2">
        <div className="grow">
          <TextField form={renaming} name="name" label={words.nameOfTheWorkspace} />
        </div>
        <FormEnd form={renaming} kind="plain" label={words.rename} disabled={renaming.fields.watch('name') === workspace.name} />
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
      notice(words.membersCanSignIn(label));
    },
  });
  const end = useSharing(
    () => call('putWorkspace', { body: { identityProvider: null } }),
    () => words.membersSignInBy,
  );
  return (
    <section aria-label={words.identityProvider}>
      <h2 className="text-lg">{words.signInElsewhere}</h2>
      <p className="mb-2 text-sm text-muted">
        {filled(words.byOpenidConnectMembers, {
          origin: <span className="font-mono text-[0.92em] break-all">{words.apiV1SessionProvider(window.location.origin)}</span>,
        })}
      </p>
      <Form form={form}>
        <TextField
          form={form}
          name="issuer"
          label={words.issuer}
          type="url"
          placeholder="https://id.quillmere.example"
          className="font-mono"
        />
        <div className="grid gap-3 sm:grid-cols-2">
          <TextField form={form} name="clientId" label={words.clientId} />
          <TextField
            form={form}
            name="clientSecret"
            label={known ? words.clientSecretKeptIf : words.clientSecret}
            type="password"
            autoComplete="off"
          />
        </div>
        <TextField form={form} name="label" label={words.whatTheButtonIs} placeholder={words.quillmereAccount} />
        <Trouble error={end.error} />
        <div className="flex items-start gap-2">
          <FormEnd form={form} kind="plain" label={common.save} />
          {known && (
            <Button kind="danger" disabled={end.isPending} onClick={() => end.mutate(undefined)}>
              {words.signInByPassword}
            </Button>
          )}
        </div>
      </Form>
    </section>
  );
}

const KINDS: Record<RetentionKind, { title: string; what: string }> = {
  keptOut: { title: words.factsOfKeptOut, what: words.timeDirectionClassAnd },
  unfiled: { title: words.unfiledMail, what: words.mailThatIsUnfiled },
  closedDeals: {
    title: words.mailOfClosedDeals,
    what: words.countedFromTheDay,
  },
};

function Retention() {
  const rules = useRetention();
  const run = useSharing(
    () => call('runRetention'),
    () => words.doneWhatWasOlder,
  );
  const due = rules.data?.rules.reduce((sum, rule) => sum + rule.wouldGo, 0) ?? 0;
  return (
    <section aria-label={words.howLongMailIs}>
      <h2 className="text-lg">{words.howLongMailIs}</h2>
      <p className="mb-2 text-sm text-muted">{words.whatIsOlderGoes}</p>
      <ul className="divide-y divide-line border-y border-line">
        {rules.data?.rules.map((rule) => (
          <Rule key={`${rule.kind}${rule.days ?? ''}`} rule={rule} />
        ))}
      </ul>
      <Trouble error={rules.error ?? run.error} />
      {due > 0 && (
        <Button kind="danger" className="mt-2" disabled={run.isPending} onClick={() => run.mutate(undefined)}>
          {words.deleteEmailNow(due)}
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
    (value) => (value === null ? words.keptForEver(KINDS[rule.kind].title) : words.keptForDays(KINDS[rule.kind].title, value)),
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
            aria-label={words.daysThatIsKept(KINDS[rule.kind].title.toLowerCase())}
            inputMode="numeric"
            className="w-20! text-right"
            placeholder="ever"
            value={days}
            onChange={(event) => setDays(event.target.value.replace(/\D/g, ''))}
          />
          {words.days}
        </label>
        <Button disabled={!changed || save.isPending} onClick={() => save.mutate(days === '' ? null : Number(days))}>
          {common.save}
        </Button>
      </div>
      {days !== '' && preview.data && (
        <p className="mt-1 text-sm text-muted" aria-live="polite">
          {preview.data.wouldGo === 0 ? words.nothingWouldBeDeleted : words.emailsWouldGoThe(preview.data.wouldGo)}
          {preview.data.oldest && <Moment at={preview.data.oldest} />}
        </p>
      )}
      <Trouble error={save.error ?? preview.error} />
    </li>
  );
}
