import { Page } from '../parts/basics';
import { DraftBar } from '../rulebook/DraftBar';
import { useDraft } from '../rulebook/queries';
import { DomainUse } from './DomainUse';
import { RuleAccuracy } from './RuleAccuracy';
import { Suggestions } from './Suggestions';

/** What stays unfiled and what is junk, by volume, and rules that past mail suggests. */
export default function TuningPage() {
  const draft = useDraft();
  return (
    <Page title="Tuning" purpose="What past mail suggests to change, how often each rule was right, and which domains write." wide>
      {draft.data && <DraftBar draft={draft.data} />}
      <Suggestions />
      <RuleAccuracy />
      <DomainUse />
    </Page>
  );
}
