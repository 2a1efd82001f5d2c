import type { User } from '@fulvet/contract';
import type { Rulebook } from '@fulvet/core';
import type { ReactNode } from 'react';
import { useRulebook } from '../api/queries';
import { Page, Trouble, Waiting } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { DecideAgain } from '../decision/DecideAgain';
import { DraftBar } from './DraftBar';
import { PilotPanel } from './PilotPanel';
import { OwnerChoice } from './editor/OwnerChoice';
import { LastDecided } from '../decision/LastDecided';
import { RuleList } from './editor/RuleList';
import {
  ACCOUNT_OPTIONS,
  ACCOUNTS_OPTIONS,
  AFTER_OPTIONS,
  DEAL_OPTIONS,
  LEVEL_OPTIONS,
  LOCK_OPTIONS,
  PEOPLE_OPTIONS,
  SCOPE_OPTIONS,
  SHOWN_OPTIONS,
} from './defaultSentences';
import { useSentences } from './useSentences';
import { StepColumns } from './StepColumns';
import { VersionLink } from './VersionLink';

type PolicyStep = 'takeIn' | 'match' | 'create' | 'share';

const TITLES: Record<PolicyStep, string> = { takeIn: 'Take in', match: 'Match', create: 'Create', share: 'Share' };
const PURPOSES: Record<PolicyStep, string> = {
  takeIn: 'Says which of the remaining email is filed at all, and which is left to its owner.',
  match: 'Says how email finds its people, accounts and deals.',
  create: 'Says who becomes a record when someone unknown writes.',
  share: 'Says who in the team sees an email once it is filed.',
};
const LAST: Record<PolicyStep, { title: string; filter: Record<string, string> }> = {
  takeIn: { title: 'Last taken in', filter: { outcome: 'filed,waiting' } },
  match: { title: 'Last waiting for a person', filter: { outcome: 'waiting' } },
  create: { title: 'Last left without a record', filter: { outcome: 'unfiled' } },
  share: { title: 'Last filed', filter: { outcome: 'filed' } },
};

/** A step whose rules are sentences; the underlined parts are edited in place. */
export default function PolicyPage({ step, user }: { step: PolicyStep; user: User }) {
  const rulebook = useRulebook();
  const { draft, fixed, put, error } = useSentences(user.role === 'admin');
  if (rulebook.isPending) return <Waiting what="Reading the rulebook" />;
  if (rulebook.isError) return <Trouble error={rulebook.error} />;
  const document = draft?.document ?? rulebook.data.document;
  const change = <Part extends ChangedPart>(part: Part, values: Partial<Rulebook[Part]>): void =>
    put(document, { ...document, [part]: { ...document[part], ...values } });
  return (
    <Page
      title={TITLES[step]}
      purpose={PURPOSES[step]}
      aside={<VersionLink version={rulebook.data.version} admin={user.role === 'admin'} />}
      wide
    >
      {user.role === 'admin' && <PilotPanel />}
      {draft && <DraftBar draft={draft} />}
      <StepColumns beside={<LastDecided {...LAST[step]} />}>
        <div className="space-y-3 border-y border-line py-4 text-lg leading-relaxed">{SENTENCES[step](document, change, fixed)}</div>
        <Trouble error={error} />
        {draft && <RuleList key={step} step={step} draft={draft} />}
        {user.role === 'admin' && <DecideAgain />}
      </StepColumns>
    </Page>
  );
}

/** Usual values of a number and its present one, in order. */
const steps = (
  current: number,
  usual: readonly number[],
  label = (value: number): string => value.toFixed(2),
): { value: string; label: string }[] =>
  [...new Set([...usual, current])].sort((first, second) => first - second).map((value) => ({ value: String(value), label: label(value) }));
const inDays = (days: number): string => (days === 1 ? '1 day' : `${days} days`);

type ChangedPart = PolicyStep | 'personal';
type Change = <Part extends ChangedPart>(part: Part, values: Partial<Rulebook[Part]>) => void;

const SENTENCES: Record<PolicyStep, (rulebook: Rulebook, change: Change, fixed: boolean) => ReactNode> = {
  takeIn: ({ takeIn, personal }, change, fixed) => (
    <>
      <p>
        Of the mail that is not kept out,{' '}
        <Choice
          label="What comes in"
          value={takeIn.scope}
          options={SCOPE_OPTIONS}
          disabled={fixed}
          onChange={(scope) => change('takeIn', { scope })}
        />{' '}
        comes in.
      </p>
      <p className="text-base text-muted">Mail that is not taken in stays unfiled. Only its owner sees it.</p>
      <p className="text-base">
        The owner of a mailbox{' '}
        <Choice
          label="Whether owners may take in less"
          value={personal.takeIn}
          options={LOCK_OPTIONS('take in less of its mail')}
          disabled={fixed}
          onChange={(lock) => change('personal', { takeIn: lock })}
        />
        .
      </p>
    </>
  ),
  match: ({ match }, change, fixed) => (
    <>
      <p>Every email that is taken in is filed under the contacts and leads who take part.</p>
      <p>
        It is filed under{' '}
        <Choice
          label="Account"
          value={match.account}
          options={ACCOUNT_OPTIONS}
          disabled={fixed}
          onChange={(account) => change('match', { account })}
        />
        . Where a domain belongs to several accounts and no participant is known, the email waits.
      </p>
      <p>
        It is filed under{' '}
        <Choice label="Deal" value={match.deal} options={DEAL_OPTIONS} disabled={fixed} onChange={(deal) => change('match', { deal })} />
        {match.deal === 'scored' && (
          <>
            : a score of at least{' '}
            <Choice
              label="Score that the best deal must reach"
              value={String(match.threshold)}
              options={steps(match.threshold, [0.4, 0.5, 0.6, 0.7, 0.8])}
              disabled={fixed}
              onChange={(value) => change('match', { threshold: Number(value) })}
            />
            , and{' '}
            <Choice
              label="How far it must be ahead of the next"
              value={String(match.margin)}
              options={steps(match.margin, [0.05, 0.1, 0.15, 0.2, 0.3])}
              disabled={fixed}
              onChange={(value) => change('match', { margin: Number(value) })}
            />{' '}
            ahead of the next. Else it waits
          </>
        )}
        .
      </p>
      {match.deal !== 'never' && (
        <p>
          Emails up to{' '}
          <Choice
            label="How long before a deal was opened its emails may have been sent"
            value={String(match.leadDays)}
            options={steps(match.leadDays, [0, 30, 90, 180, 365], inDays)}
            disabled={fixed}
            onChange={(value) => change('match', { leadDays: Number(value) })}
          />{' '}
          before a deal was opened may be about it.
        </p>
      )}
    </>
  ),
  create: ({ create }, change, fixed) => (
    <>
      <p>
        An unknown external person becomes{' '}
        <Choice
          label="What unknown people become"
          value={create.people}
          options={PEOPLE_OPTIONS}
          disabled={fixed}
          onChange={(people) => change('create', { people })}
        />
        {create.people !== 'nothing' && (
          <>
            {' '}
            <Choice
              label="When"
              value={create.after}
              options={AFTER_OPTIONS}
              disabled={fixed}
              onChange={(after) => change('create', { after })}
            />
            {create.after === 'emails' && (
              <>
                {': '}
                <Choice
                  label="How many emails"
                  value={String(create.emails)}
                  options={[2, 3, 4, 5, 10].map((value) => ({ value: String(value), label: `${value} emails` }))}
                  shown={`${create.emails} emails`}
                  disabled={fixed}
                  onChange={(value) => change('create', { emails: Number(value) })}
                />
              </>
            )}
            , <OwnerChoice value={create.owner} disabled={fixed} onChange={(owner) => change('create', { owner })} />
          </>
        )}
        {create.people === 'contact' && (
          <>
            ,{' '}
            <Choice
              label="Account"
              value={create.accounts ? 'yes' : 'no'}
              options={ACCOUNTS_OPTIONS}
              disabled={fixed}
              onChange={(value) => change('create', { accounts: value === 'yes' })}
            />
          </>
        )}
        .
      </p>
      {create.people !== 'nothing' && (
        <p>
          No records are created from an email with more than{' '}
          <Choice
            label="From emails with up to how many external people records are created"
            value={String(create.mostPeople)}
            options={steps(create.mostPeople, [5, 10, 30, 100, 1000], String)}
            disabled={fixed}
            onChange={(value) => change('create', { mostPeople: Number(value) })}
          />{' '}
          external people, such as an invitation sent round. If someone writes from a new address under the name of a known person, Fulvet
          asks first.
        </p>
      )}
      <p className="text-base text-muted">
        Never from machine mail, never for colleagues or role addresses such as info@, and never an account for a public mail provider.
      </p>
    </>
  ),
  share: ({ share, personal }, change, fixed) => (
    <>
      <p>
        An email that is filed is seen by{' '}
        <Choice
          label="Who sees filed mail"
          value={share.level}
          options={LEVEL_OPTIONS}
          disabled={fixed}
          onChange={(level) => change('share', { level })}
        />
        {share.level !== 'owner' && (
          <>
            , who see{' '}
            <Choice
              label="What they see"
              value={share.existenceOnly ? 'existence' : 'content'}
              options={SHOWN_OPTIONS}
              disabled={fixed}
              onChange={(value) => change('share', { existenceOnly: value === 'existence' })}
            />
          </>
        )}
        .
      </p>
      <p className="text-base">
        The owner of a mailbox{' '}
        <Choice
          label="Whether owners may keep mail private"
          value={personal.share}
          options={LOCK_OPTIONS('keep its mail private')}
          disabled={fixed}
          onChange={(lock) => change('personal', { share: lock })}
        />
        .
      </p>
      <p className="text-base text-muted">
        An unfiled email is seen by its owner only. Administrators see that it exists and how it was decided, but not its text.
      </p>
    </>
  ),
};
