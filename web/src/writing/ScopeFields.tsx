import type { TemplateRow, User } from '@fulvet/contract';
import type { FieldValues, Path } from 'react-hook-form';
import { useTeams } from '../api/queries';
import { SelectField } from '../parts/form/Form';
import type { SentForm } from '../parts/form/useSentForm';
import { Option } from '../parts/Select';
import { useSenders } from './queries';
import { scopeFields as words, scopes } from './words';

interface Scoped extends FieldValues {
  scope: TemplateRow['scope'];
  /** Empty: none. */
  teamId: string;
}

/** The team as the API takes it. */
export const teamOf = ({ scope, teamId }: Pick<Scoped, 'scope' | 'teamId'>): number | null =>
  scope === 'team' && teamId !== '' ? Number(teamId) : null;

/** Who finds what is kept. Reps keep it for themselves. */
export function ScopeFields<V extends Scoped>({ form, user }: { form: SentForm<V>; user: User }) {
  const mayShare = useSenders().data?.mayShare ?? user.role !== 'rep';
  const teams = useTeams().data?.teams ?? [];
  const scope: unknown = form.fields.watch('scope' as Path<V>);
  return (
    <>
      {mayShare && (
        <SelectField form={form} name={'scope' as Path<V>} label={words.whoFindsIt}>
          {Object.entries(scopes).map(([value, label]) => (
            <Option key={value} value={value}>
              {label}
            </Option>
          ))}
        </SelectField>
      )}
      {scope === 'team' && (
        <SelectField form={form} name={'teamId' as Path<V>} label={words.team}>
          <Option value="">{words.chooseATeam}</Option>
          {teams.map(({ id, name }) => (
            <Option key={id} value={id}>
              {name}
            </Option>
          ))}
        </SelectField>
      )}
    </>
  );
}
