import type { User } from '@fulvet/contract';
import type { Rulebook } from '@fulvet/core';
import { useRulebook } from '../api/queries';
import { Page, Trouble, Waiting } from '../parts/basics';
import { DecideAgain } from '../decision/DecideAgain';
import { DraftBar } from './DraftBar';
import { PilotPanel } from './PilotPanel';
import { LastDecided } from '../decision/LastDecided';
import { RuleList } from './editor/RuleList';
import { useSentences } from './sentences/useSentences';
import { StepColumns } from './StepColumns';
import { VersionLink } from './VersionLink';
import { common } from '../parts/words';
import { policyPage as words } from './words';
import type { ChangedPart, PolicyStep } from './policySentences';
import { SENTENCES } from './policySentences';

const TITLES: Record<PolicyStep, string> = { takeIn: words.takeIn, match: words.match, create: common.create, share: words.share };
const PURPOSES: Record<PolicyStep, string> = {
  takeIn: words.saysWhichOfThe,
  match: words.saysHowEmailFinds,
  create: words.saysWhoBecomesA,
  share: words.saysWhoInThe,
};
const LAST: Record<PolicyStep, { title: string; filter: Record<string, string> }> = {
  takeIn: { title: words.lastTakenIn, filter: { outcome: 'filed,waiting' } },
  match: { title: words.lastWaitingForA, filter: { outcome: 'waiting' } },
  create: { title: words.lastLeftWithoutA, filter: { outcome: 'unfiled' } },
  share: { title: words.lastFiled, filter: { outcome: 'filed' } },
};

/** A step whose rules are sentences; the underlined parts are edited in place. */
export default function PolicyPage({ step, user }: { step: PolicyStep; user: User }) {
  const rulebook = useRulebook();
  const { draft, fixed, put, error } = useSentences(user.role === 'admin');
  if (rulebook.isPending) return <Waiting what={words.readingTheRulebook} />;
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
