import { Page } from '../parts/basics';
import { DraftBar } from '../rulebook/DraftBar';
import { useDraft } from '../rulebook/queries';
import { DomainUse } from './DomainUse';
import { RuleAccuracy } from './RuleAccuracy';
import { Suggestions } from './Suggestions';
import { tuningPage as words } from './words';

/** What stays unfiled and what is junk, by volume, and rules that past mail suggests. */
export default function TuningPage() {
  const draft = useDraft();
  return (
    <Page title={words.tuning} purpose={words.whatPastMailSuggests} wide>
      {draft.data && <DraftBar draft={draft.data} />}
      <Suggestions />
      <RuleAccuracy />
      <DomainUse />
    </Page>
  );
}
