import type { Answer, RecordDetail } from '@fulvet/contract';
import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { answerKey, asked } from '../api/asked';
import { X } from 'lucide-react';
import { Link } from 'react-router';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Trouble } from '../parts/basics';
import { useNotice } from '../parts/Notices';
import { useUndo } from '../parts/useUndo';
import { recordPath } from '../parts/people';
import { RecordPicker } from '../parts/RecordPicker';
import { peopleOn } from './partsOfRecord';
import { useCreating } from './useCreating';
import { peopleOnRecord as words } from './words';

const PEOPLE = ['contact', 'lead'] as const;

type OnDeal = RecordDetail['people'][number];
type Wanted = Pick<OnDeal, 'kind' | 'id' | 'role'>;

/** Who is on a deal or a record of an own kind, and what they are to it; their mail finds it by them. */
export function PeopleOnRecord({
  record,
  noun,
  editable,
}: {
  record: RecordDetail;
  /** What the record is called: `deal`. */
  noun: string;
  editable: boolean;
}) {
  const client = useQueryClient();
  const refresh = useRefreshAll();
  const notice = useNotice();
  const undo = useUndo();
  const put = async (people: readonly Wanted[]): Promise<number | null> => {
    const body = { people: peopleOn(people) };
    const { kind, id } = record;
    const saved = await call(kind === 'own' ? 'setOwnRecordPeople' : 'setDealPeople', { id, body });
    client.setQueryData(answerKey('getRecord', { kind, id }), saved);
    await refresh();
    return saved.undo;
  };
  const add = (person: { kind: 'contact' | 'lead'; id: number }): Promise<number | null> =>
    put([...record.people, { kind: person.kind, id: person.id, role: '' }]);
  const creating = useCreating('contact', ({ id }) => add({ kind: 'contact', id }));
  const save = useMutation({
    mutationFn: (people: readonly Wanted[]) => put(people),
    onSuccess: (step) => notice(words.savedMailOfThese, undo(step)),
  });
  return (
    <section className="mt-4 border-t border-line pt-2" aria-label={words.people}>
      <h2 className="mb-1">{words.peopleOnIt}</h2>
      <ul>
        {record.people.map((person) => (
          <li key={`${person.kind}${person.id}`} className="group flex items-baseline gap-2">
            <Link to={recordPath(person.kind, person.id)} className="min-w-0 shrink truncate text-spruce hover:underline">
              {person.name}
            </Link>
            {editable ? (
              <input
                aria-label={words.whatIsToThe(person.name, noun)}
                placeholder="role"
                defaultValue={person.role}
                className="w-20 min-w-0 grow rounded border border-transparent bg-transparent px-1 placeholder:text-muted hover:border-line focus:border-line"
                onBlur={(event) => {
                  const role = event.target.value.trim();
                  if (role !== person.role) save.mutate(record.people.map((it) => (it === person ? { ...it, role } : it)));
                }}
                onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
              />
            ) : (
              <span className="text-muted">{person.role}</span>
            )}
            {editable && (
              <button
                type="button"
                aria-label={words.takeOffTheDeal(person.name, noun)}
                className="text-muted hover:text-brick"
                onClick={() => save.mutate(record.people.filter((it) => it !== person))}
              >
                <X size={13} />
              </button>
            )}
          </li>
        ))}
      </ul>
      {editable && record.kind === 'deal' && (
        <Proposed
          dealId={record.id}
          onAdd={({ kind, id }) => save.mutate([...record.people, { kind, id, role: '' }])}
          disabled={save.isPending}
        />
      )}
      {editable && (
        <RecordPicker
          label={words.addAPerson}
          only={PEOPLE}
          creating={creating}
          onPick={({ kind, id }) => {
            if ((kind === 'contact' || kind === 'lead') && !record.people.some((person) => person.kind === kind && person.id === id))
              save.mutate([...record.people, { kind, id, role: '' }]);
          }}
        >
          <button type="button" className="mt-1 text-spruce hover:underline">
            {words.addAPersonMore}
          </button>
        </RecordPicker>
      )}
      <Trouble error={save.error} />
    </section>
  );
}

type ProposedPerson = Answer<'proposeDealPeople'>['people'][number];

/** People of the deal's mail who are not on it. */
function Proposed({ dealId, onAdd, disabled }: { dealId: number; onAdd: (person: ProposedPerson) => void; disabled: boolean }) {
  const people = useQuery(asked('proposeDealPeople', { id: dealId })).data?.people ?? [];
  if (people.length === 0) return null;
  return (
    <div className="mt-2">
      <h3 className="text-sm text-muted">{words.inItsMail}</h3>
      <ul>
        {people.map((person) => (
          <li key={`${person.kind}${person.id}`} className="flex items-baseline gap-2">
            <Link to={recordPath(person.kind, person.id)} className="min-w-0 truncate text-spruce hover:underline">
              {person.name}
            </Link>
            <span className="tabular text-sm whitespace-nowrap text-muted">{words.emails(person.emails)}</span>
            <button
              type="button"
              className="ml-auto text-spruce hover:underline disabled:opacity-50"
              aria-label={words.addToTheDeal(person.name)}
              disabled={disabled}
              onClick={() => onAdd(person)}
            >
              {words.add}
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
