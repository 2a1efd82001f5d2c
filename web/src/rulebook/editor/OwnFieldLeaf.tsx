import type { OwnField } from '@fulvet/contract';
import { RECORD_KINDS } from '@fulvet/core';
import type { RecordTest } from '@fulvet/core';
import { useRecordSetup } from '../../api/queries';
import { TextInput } from '../../parts/basics';
import { Choice } from '../../parts/Choice';
import { KIND_LABELS } from '../../parts/people';
import { DatePicker } from '../../parts/DatePicker';
import { filled } from '../../parts/filled';
import { ownFieldLeaf as texts } from './words';

type OwnTest = Extract<RecordTest, { field: 'own' }>;

/** A condition on a field that the workspace has added to its records. */
export function OwnFieldLeaf({ test, onChange }: { test: OwnTest; onChange: (test: OwnTest) => void }) {
  const setup = useRecordSetup();
  const all = RECORD_KINDS.flatMap((kind) => (setup.data?.ownFields[kind] ?? []).map((field) => ({ kind, field })));
  const nameOf = (of: string | undefined): string | undefined => setup.data?.kinds.find(({ key }) => key === of)?.singular;
  const current = all.find((item) => item.kind === test.of && item.field.key === test.key);
  if (all.length === 0) return <span className="text-muted">{texts.noFieldOfYour}</span>;
  return (
    <>
      <Choice
        label={texts.whichField}
        value={`${test.of}:${test.key}`}
        options={[
          ...(current ? [] : [{ value: `${test.of}:${test.key}`, label: texts.chooseAField }]),
          ...all.map(({ kind, field }) => ({
            value: `${kind}:${field.key}`,
            label: texts.theS((nameOf(field.of) ?? KIND_LABELS[kind].one).toLowerCase(), field.label),
          })),
        ]}
        onChange={(value) => {
          const next = all.find((item) => `${item.kind}:${item.field.key}` === value);
          if (next) onChange({ field: 'own', of: next.kind, key: next.field.key, test: startFor(next.field) });
        }}
      />{' '}
      {current && <OwnValue test={test} field={current.field} onChange={onChange} />}
    </>
  );
}

function startFor(field: OwnField): OwnTest['test'] {
  if (field.type === 'number') return { atLeast: 1 };
  if (field.type === 'date') return { onOrAfter: new Date().toISOString().slice(0, 10) };
  return { in: [field.type === 'yesNo' ? 'yes' : (field.choices[0] ?? texts.aValue)] };
}

function OwnValue({ test, field, onChange }: { test: OwnTest; field: OwnField; onChange: (test: OwnTest) => void }) {
  const set = (next: OwnTest['test']): void => onChange({ ...test, test: next });
  const how = test.test;
  const small = 'inline-block min-h-7! w-40! max-w-full py-0!';
  if ('atLeast' in how)
    return (
      <>
        {texts.isAtLeast}{' '}
        <TextInput
          aria-label={texts.number}
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
      return filled(texts.is, {
        value: (
          <Choice
            label={texts.value}
            value={value}
            options={choices.map((choice) => ({ value: choice, label: choice }))}
            onChange={(item) => set({ in: [item] })}
          />
        ),
      });
    return (
      <>
        {texts.isSmall}{' '}
        <TextInput
          aria-label={texts.values}
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
      {filled(texts.is3, {
        beforeOr: (
          <Choice
            label={texts.beforeOrAfter}
            value={'onOrAfter' in how ? 'after' : 'before'}
            options={[
              { value: 'after', label: texts.onOrAfter },
              { value: 'before', label: texts.onOrBefore },
            ]}
            onChange={(side) => put(side === 'after', date)}
          />
        ),
      })}{' '}
      <span className="inline-block">
        <DatePicker fit="words" label={texts.day} value={date} onValue={(value) => value && put('onOrAfter' in how, value)} />
      </span>
    </>
  );
}
