import type { OwnField, RecordKind } from '@fulvet/contract';
import type { RecordTest } from '@fulvet/core';
import { useRecordSetup } from '../../api/queries';
import { TextInput } from '../../parts/basics';
import { Choice } from '../../parts/Choice';
import { KIND_LABELS } from '../../parts/people';
import { DatePicker } from '../../parts/DatePicker';

type OwnTest = Extract<RecordTest, { field: 'own' }>;

/** A condition on a field that the workspace has added to its records. */
export function OwnFieldLeaf({ test, onChange }: { test: OwnTest; onChange: (test: OwnTest) => void }) {
  const setup = useRecordSetup();
  const all = (['account', 'contact', 'lead', 'deal'] as const).flatMap((kind) =>
    (setup.data?.ownFields[kind] ?? []).map((field) => ({ kind, field })),
  );
  const current = all.find((item) => item.kind === test.of && item.field.key === test.key);
  if (all.length === 0) return <span className="text-muted">No field of your own is set up yet; see Fields beside the records.</span>;
  return (
    <>
      <Choice
        label="Which field"
        value={`${test.of}:${test.key}`}
        options={[
          ...(current ? [] : [{ value: `${test.of}:${test.key}`, label: 'choose a field' }]),
          ...all.map(({ kind, field }) => ({
            value: `${kind}:${field.key}`,
            label: `the ${KIND_LABELS[kind].one.toLowerCase()}’s ${field.label}`,
          })),
        ]}
        onChange={(value) => {
          const next = all.find((item) => `${item.kind}:${item.field.key}` === value);
          if (next) onChange({ field: 'own', of: next.kind as RecordKind, key: next.field.key, test: startFor(next.field) });
        }}
      />{' '}
      {current && <OwnValue test={test} field={current.field} onChange={onChange} />}
    </>
  );
}

function startFor(field: OwnField): OwnTest['test'] {
  if (field.type === 'number') return { atLeast: 1 };
  if (field.type === 'date') return { onOrAfter: new Date().toISOString().slice(0, 10) };
  return { in: [field.type === 'yesNo' ? 'yes' : (field.choices[0] ?? 'a value')] };
}

function OwnValue({ test, field, onChange }: { test: OwnTest; field: OwnField; onChange: (test: OwnTest) => void }) {
  const set = (next: OwnTest['test']): void => onChange({ ...test, test: next });
  const how = test.test;
  const small = 'inline-block min-h-7! w-40! max-w-full py-0!';
  if ('atLeast' in how)
    return (
      <>
        is at least{' '}
        <TextInput
          aria-label="Number"
          type="number"
          className={small}
          value={how.atLeast}
          onChange={(event) => set({ atLeast: Number(event.target.value) || 0 })}
        />
      </>
    );
  if ('in' in how) {
    const choices = field.type === 'yesNo' ? ['yes', 'no'] : field.choices;
    const [value = ''] = how.in;
    if (choices.length > 0)
      return (
        <>
          is{' '}
          <Choice
            label="Value"
            value={value}
            options={choices.map((choice) => ({ value: choice, label: choice }))}
            onChange={(item) => set({ in: [item] })}
          />
        </>
      );
    return (
      <>
        is{' '}
        <TextInput
          aria-label="Values"
          className={small}
          value={how.in.join(', ')}
          onChange={(event) => set({ in: event.target.value.split(',').map((part) => part.trimStart()) })}
        />
      </>
    );
  }
  const date = 'onOrAfter' in how ? how.onOrAfter : how.onOrBefore;
  const put = (after: boolean, day: string): void => set(after ? { onOrAfter: day } : { onOrBefore: day });
  return (
    <>
      is{' '}
      <Choice
        label="Before or after"
        value={'onOrAfter' in how ? 'after' : 'before'}
        options={[
          { value: 'after', label: 'on or after' },
          { value: 'before', label: 'on or before' },
        ]}
        onChange={(side) => put(side === 'after', date)}
      />{' '}
      <span className="inline-block">
        <DatePicker fit="words" label="Day" value={date} onValue={(value) => value && put('onOrAfter' in how, value)} />
      </span>
    </>
  );
}
