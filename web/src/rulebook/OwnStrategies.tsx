import type { Rulebook } from '@fulvet/core';
import { useRecordSetup } from '../api/queries';
import { Choice } from '../parts/Choice';
import { filled } from '../parts/filled';
import { OWN_OPTIONS } from './sentences/defaultSentences';
import { ownStrategies as words } from './words';

/** How mail finds the records of each kind that the workspace defines. */
export function OwnStrategies({
  match,
  change,
  fixed,
}: {
  match: Rulebook['match'];
  change: (part: 'match', values: Partial<Rulebook['match']>) => void;
  fixed: boolean;
}) {
  const kinds = useRecordSetup().data?.kinds ?? [];
  return kinds.map(({ key, plural }) => (
    <p key={key}>
      {filled(words.itIsFiledUnder, {
        kinds: plural.toLowerCase(),
        how: (
          <Choice
            label={words.howAreFound(plural.toLowerCase())}
            value={match.own[key] ?? 'code'}
            options={OWN_OPTIONS}
            disabled={fixed}
            onChange={(how) => change('match', { own: { ...match.own, [key]: how } })}
          />
        ),
      })}
    </p>
  ));
}
