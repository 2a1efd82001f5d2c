import type { Workspace, WritingRights as Rights } from '@fulvet/contract';
import { useTeams } from '../api/queries';
import { call } from '../api/call';
import { Trouble } from '../parts/basics';
import { Choice } from '../parts/Choice';
import { filled } from '../parts/filled';
import { Ticks } from '../parts/Ticks';
import { useSharing } from '../sharing/useSharing';
import { writingRights as words } from './words';

const ROLES = [
  { value: 'rep', label: words.everyMember, hint: words.butViewers },
  { value: 'manager', label: words.managersAndAdministrators, hint: words.notReps },
  { value: 'admin', label: words.administrators, hint: words.noOneElse },
] as const;

/** Who writes emails from here, and who shares texts and documents: by role and team. */
export function WritingRights({ workspace }: { workspace: Workspace }) {
  const save = useSharing(
    (writingRights: Rights) => call('putWorkspace', { body: { writingRights } }),
    () => words.saved,
  );
  const rights = workspace.writingRights;
  const change = (right: keyof Rights, part: Partial<Rights['send']>): void =>
    save.mutate({ ...rights, [right]: { ...rights[right], ...part } });
  return (
    <section aria-label={words.title}>
      <h2 className="mb-1.5 text-lg">{words.title}</h2>
      <div className="space-y-2">
        <Right sentence={words.emailsAreSentBy} label={words.whoSends} right={rights.send} onChange={(part) => change('send', part)} />
        <Right sentence={words.textsAreSharedBy} label={words.whoShares} right={rights.share} onChange={(part) => change('share', part)} />
        <Right
          sentence={words.emailsToManyAreSentBy}
          label={words.whoSendsToMany}
          right={rights.bulk}
          onChange={(part) => change('bulk', part)}
        />
        <Right
          sentence={words.openingsAreCountedBy}
          label={words.whoCounts}
          right={rights.measure}
          onChange={(part) => change('measure', part)}
        />
      </div>
      <Trouble error={save.error} />
    </section>
  );
}

function Right({
  sentence,
  label,
  right,
  onChange,
}: {
  sentence: string;
  label: string;
  right: Rights['send'];
  onChange: (part: Partial<Rights['send']>) => void;
}) {
  const teams = useTeams().data?.teams ?? [];
  return (
    <div>
      <p>
        {filled(sentence, { who: <Choice label={label} value={right.role} options={ROLES} onChange={(role) => onChange({ role })} /> })}
      </p>
      {right.role !== 'admin' && teams.length > 0 && (
        <details className="mt-1" open={right.teamIds.length > 0}>
          <summary className="min-h-7 cursor-pointer text-sm text-muted">{words.onlyInTeams}</summary>
          <Ticks
            label={words.teams}
            none={words.anyTeam}
            options={teams.map(({ id, name }) => ({ value: String(id), shown: name }))}
            chosen={right.teamIds.map(String)}
            onChange={(chosen) => onChange({ teamIds: chosen.map(Number) })}
          />
        </details>
      )}
    </div>
  );
}
