import type { AccessRequest, Grant, Input, User } from '@fulvet/contract';
import { useState } from 'react';
import { useGrants, useRequests, useSharingChoices } from './queries';
import { useSharing, useRemoveSharingChoice, useWithdrawRequest } from './useSharing';
import { call } from '../api/call';
import { useDecisionPanel } from '../parts/useDecisionPanel';
import { Button, Page, Trouble } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { Moment } from '../parts/Moment';
import { counted } from '../parts/numbers';
import { KIND_LABELS } from '../parts/people';
import { Emergencies } from './Emergencies';
import { Lines, Part } from './Part';
import { Sight } from './Sight';
import { sharingChoiceText, subjectText } from './shareWords';
import { filled } from '../parts/filled';
import { sharingPage as texts } from './words';

/** Who sees what of one's own mail, and what one may read of others': asked for, given, said, taken back. */
export default function SharingPage({ user }: { user: User }) {
  return (
    <Page title={texts.sharing} purpose={texts.whatYouShareBeyond} wide>
      <div className="grid gap-x-10 gap-y-8 lg:grid-cols-2">
        <div className="space-y-8">
          <AskedOfMe />
          {user.role !== 'viewer' && <OwnChoices />}
          <Given />
        </div>
        <div className="space-y-8">
          <Emergencies user={user} />
          <AskedByMe />
          <Received />
          <Sight user={user} />
        </div>
      </div>
    </Page>
  );
}

function AskedOfMe() {
  const requests = useRequests();
  const open = requests.data?.toMe.filter((item) => item.state === 'open') ?? [];
  return (
    <Part title={texts.colleaguesAskYou} hint={texts.eachSeesThatThere}>
      <Trouble error={requests.error} />
      <Lines empty={texts.noOpenRequests}>
        {open.map((item) => (
          <Request key={item.id} request={item} />
        ))}
      </Lines>
    </Part>
  );
}

function Request({ request }: { request: AccessRequest }) {
  const docket = useDecisionPanel();
  const answer = useSharing(
    (body: Input<'answerAccessRequest'>['body']) => call('answerAccessRequest', { id: request.id, body }),
    (body) => (body.answer === 'decline' ? texts.declinedWasNotified(request.askedBy.name) : texts.readsItFromNow(request.askedBy.name)),
  );
  return (
    <li className="px-1 py-2">
      <p>
        {filled(texts.asksFor, { askedByName: <span className="font-medium">{request.askedBy.name}</span> })}{' '}
        {request.emailId === null ? (
          subjectText(request)
        ) : (
          <button type="button" className="text-left text-spruce hover:underline" onClick={() => docket.open(request.emailId ?? 0)}>
            {subjectText(request)}
          </button>
        )}{' '}
        <span className="text-muted">
          · {counted(request.emails, 'email of yours', 'emails of yours')} · <Moment at={request.at} />
        </span>
      </p>
      {request.note && <p className="mt-0.5 border-l-2 border-line pl-2 text-muted">“{request.note}”</p>}
      <div className="mt-1.5 flex flex-wrap items-center gap-1.5">
        <Button kind="main" disabled={answer.isPending} onClick={() => answer.mutate({ answer: 'asked' })}>
          {request.scope === 'email' ? texts.shareThisOne : texts.shareIt}
        </Button>
        {request.scope === 'email' && (
          <Button disabled={answer.isPending} onClick={() => answer.mutate({ answer: 'conversation' })}>
            {texts.theConversation}
          </Button>
        )}
        {request.scope !== 'record' && request.records.length > 0 && (
          <Choice
            label={texts.shareAllWith}
            value=""
            shown={texts.allWithARecord}
            options={request.records.map((record) => ({
              value: `${record.kind}:${record.id}`,
              label: record.name,
              hint: texts.allMailOfYours(KIND_LABELS[record.kind].one.toLowerCase()),
            }))}
            onChange={(key) => {
              const record = request.records.find(({ kind, id }) => `${kind}:${id}` === key);
              if (record) answer.mutate({ answer: 'record', record: { kind: record.kind, id: record.id } });
            }}
          />
        )}
        <Button kind="quiet" disabled={answer.isPending} onClick={() => answer.mutate({ answer: 'decline' })}>
          {texts.decline}
        </Button>
      </div>
      <Trouble error={answer.error} />
    </li>
  );
}

function AskedByMe() {
  const requests = useRequests();
  const withdraw = useWithdrawRequest();
  const mine = requests.data?.mine.filter((item) => item.state !== 'withdrawn') ?? [];
  return (
    <Part title={texts.youHaveAsked}>
      <Lines empty={texts.whereYouSeeThat}>
        {mine.slice(0, 12).map((item) => (
          <li key={item.id} className="flex items-baseline gap-3 px-1 py-1.5">
            <span className="min-w-0 grow">
              {filled(texts.for, {
                ownerName: item.owner.name,
                item: subjectText(item),
                itemAt: <Moment at={item.at} className="text-muted" />,
              })}
            </span>
            <span className={item.state === 'declined' ? 'text-brick' : item.state === 'shared' ? 'text-moss' : 'text-muted'}>
              {item.state}
            </span>
            {item.state === 'open' && (
              <Button kind="quiet" onClick={() => withdraw.mutate(item.id)}>
                {texts.withdraw}
              </Button>
            )}
          </li>
        ))}
      </Lines>
    </Part>
  );
}

function OwnChoices() {
  const choices = useSharingChoices();
  const back = useRemoveSharingChoice();
  return (
    <Part title={texts.yourSharingChoices} hint={texts.theyOverrideTheRules}>
      <Trouble error={choices.error ?? back.error} />
      <Lines empty={texts.noneTheRulesDecide}>
        {(choices.data?.choices ?? []).map((choice) => (
          <li key={choice.id} className="flex items-baseline gap-3 px-1 py-1.5">
            <span className="min-w-0 grow break-words">
              {sharingChoiceText(choice)} <Moment at={choice.at} className="text-muted" />
            </span>
            <Button kind="quiet" disabled={back.isPending} onClick={() => back.mutate(choice.id)}>
              {texts.removeChoice}
            </Button>
          </li>
        ))}
      </Lines>
    </Part>
  );
}

function Given() {
  const grants = useGrants();
  const back = useSharing(
    (grant: Grant) => call('withdrawGrant', { id: grant.id }),
    (grant) => texts.readsItNoMore(grant.to.name),
  );
  return (
    <Part title={texts.whatYouSharedWith}>
      <Trouble error={grants.error ?? back.error} />
      <Lines empty={texts.nothingBeyondTheRules}>
        {(grants.data?.given ?? []).map((item) => (
          <li key={item.id} className="flex items-baseline gap-3 px-1 py-1.5">
            <span className="min-w-0 grow">
              <span className="font-medium">{item.to.name}</span> {subjectText(item)}{' '}
              <span className="text-muted">· {counted(item.emails, 'email', 'emails')}</span>
            </span>
            <Button kind="quiet" disabled={back.isPending} onClick={() => back.mutate(item)}>
              {texts.endAccess}
            </Button>
          </li>
        ))}
      </Lines>
    </Part>
  );
}

function Received() {
  const grants = useGrants();
  const [all, setAll] = useState(false);
  const list = grants.data?.received ?? [];
  if (list.length === 0) return null;
  return (
    <Part title={texts.whatColleaguesLetYou}>
      <Lines empty="">
        {list.slice(0, all ? undefined : 8).map((item) => (
          <li key={item.id} className="px-1 py-1.5">
            <span className="font-medium">{item.by.name}</span>: {subjectText(item)}{' '}
            <span className="text-muted">· {counted(item.emails, 'email', 'emails')}</span>
          </li>
        ))}
      </Lines>
      {list.length > 8 && !all && (
        <Button kind="quiet" onClick={() => setAll(true)}>
          {texts.all(list.length)}
        </Button>
      )}
    </Part>
  );
}
