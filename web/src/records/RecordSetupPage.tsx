import type { DealStage, OwnField, RecordKind } from '@fulvet/contract';
import { STAGE_SETS, withStageSet } from '@fulvet/core';
import { X } from 'lucide-react';
import { useEffect } from 'react';
import { useController, useFieldArray, useWatch } from 'react-hook-form';
import { Form } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import type { SentForm } from '../parts/form/useSentForm';
import { Link, useParams, useSearchParams } from 'react-router';
import { useRecordSetup } from '../api/queries';
import { Button, Page, TextInput, Trouble, Waiting } from '../parts/basics';
import { Option, Select } from '../parts/Select';
import { isKind } from '../parts/people';
import { KindTabs } from './own/KindTabs';
import OwnKindEditor from './own/OwnKindEditor';
import { useKind } from './own/useKind';
import { OrderedRow } from './OrderedRow';
import { useSavedSetup } from './useSavedSetup';
import { common } from '../parts/words';
import { recordSetupPage as words } from './words';

const TYPES: [OwnField['type'], string][] = [
  ['text', words.text],
  ['number', words.number],
  ['date', words.date],
  ['choice', words.oneOfSeveral],
  ['yesNo', words.yesOrNo],
];
const NEW = 'new';

const setupPath = (kind: RecordKind, of: string | undefined): string => `/record-setup/${kind}${of === undefined ? '' : `?of=${of}`}`;

/** The fields that the workspace adds to its records, and the stages of its deals. */
export default function RecordSetupPage() {
  const params = useParams();
  const kind: RecordKind = isKind(params.kind) ? params.kind : 'account';
  const [search] = useSearchParams();
  const setup = useRecordSetup();
  const of = kind === 'own' ? (search.get('of') ?? setup.data?.kinds[0]?.key ?? NEW) : undefined;
  const isNew = of === NEW;
  const listed = useKind(kind, of);
  const fields = setup.data?.ownFields[kind]?.filter((field) => of === undefined || field.of === of) ?? [];
  return (
    <Page
      purpose={words.fieldsOfYourOwn}
      title={words.fieldsAndStages}
      aside={
        <Link to={isNew ? '/records' : listed.path} className="text-sm text-spruce hover:underline">
          {words.backTo((isNew ? common.records : listed.many).toLowerCase())}
        </Link>
      }
    >
      <KindTabs
        kind={kind}
        of={isNew ? undefined : of}
        to={setupPath}
        more={{ to: '/record-setup/own?of=new', label: words.anotherKind, isHere: isNew }}
      />
      {setup.isPending && <Waiting what={words.fetching} />}
      <Trouble error={setup.error} />
      {setup.data && kind === 'own' && <OwnKindEditor key={listed.own?.id ?? 0} kind={listed.own} />}
      {setup.data && !isNew && <Fields key={`${kind}${of ?? ''}`} kind={kind} of={of} many={listed.many} fields={fields} />}
      {setup.data && kind === 'deal' && <Stages stages={setup.data.stages} />}
    </Page>
  );
}

/** A field as it is edited: a new one has no key yet, and its choices are one line of text. */
interface FieldRow {
  key?: string;
  label: string;
  type: OwnField['type'];
  choices: string;
}

const rowOf = ({ choices, ...field }: OwnField): FieldRow => ({ ...field, choices: choices.join('; ') });
const fieldOf = ({ choices, ...row }: FieldRow) => ({
  ...row,
  choices:
    row.type === 'choice'
      ? choices
          .split(';')
          .map((part) => part.trim())
          .filter(Boolean)
      : [],
});

function Fields({ kind, of, many, fields }: { kind: RecordKind; of: string | undefined; many: string; fields: readonly OwnField[] }) {
  const saved = useSavedSetup(words.theFieldsAreSaved);
  const form = useBodyForm('setOwnFields', {
    values: { fields: fields.map(rowOf) },
    input: (values) => ({ kind, body: { fields: values.fields.map(fieldOf), ...(of === undefined ? {} : { of }) } }),
    onDone: saved,
  });
  const { control, register, reset } = form.fields;
  useEffect(() => reset({ fields: fields.map(rowOf) }), [fields, reset]);
  const list = useFieldArray({ control, name: 'fields', keyName: 'rowId' });
  const rows = useWatch({ control, name: 'fields' });
  const gone = fields.filter((field) => !rows.some((row) => row.key === field.key));
  return (
    <section aria-label={words.ownFields}>
      <h2 className="mb-1 text-lg">{words.ownFieldsOf(many.toLowerCase())}</h2>
      <p className="mb-3 max-w-prose text-muted">{words.theyAppearOnEvery}</p>
      <Form form={form} className="">
        <ul className="space-y-2">
          {list.fields.map(({ rowId }, at) => (
            <li key={rowId} className="grid items-center gap-2 sm:grid-cols-[12rem_9rem_1fr_auto]">
              <TextInput aria-label={words.nameOfTheField} placeholder={common.name} {...register(`fields.${at}.label`)} />
              <FieldType form={form} at={at} label={words.typeOf(rows[at]?.label ?? '')} />
              {rows[at]?.type === 'choice' ? (
                <TextInput
                  aria-label={words.choicesOf(rows[at].label)}
                  placeholder={words.choicesWithBetweenThem}
                  {...register(`fields.${at}.choices`)}
                />
              ) : (
                <span />
              )}
              <Button kind="quiet" aria-label={words.remove(rows[at]?.label || words.theField)} onClick={() => list.remove(at)}>
                <X size={14} />
              </Button>
            </li>
          ))}
        </ul>
        {gone.length > 0 && <p className="mt-2 text-brick">{words.savingRemovesFromEvery(gone.map((item) => item.label).join(', '))}</p>}
        <Trouble error={form.error} />
        <div className="mt-3 flex gap-2">
          <Button onClick={() => list.append({ label: '', type: 'text', choices: '' })}>{words.addAField}</Button>
          <Button kind="main" type="submit" disabled={form.pending || rows.some((row) => !row.label.trim())}>
            {words.saveTheFields}
          </Button>
        </div>
      </Form>
    </section>
  );
}

function FieldType({ form, at, label }: { form: SentForm<{ fields: FieldRow[] }>; at: number; label: string }) {
  const { field } = useController({ control: form.fields.control, name: `fields.${at}.type` });
  return (
    <Select aria-label={label} value={field.value} onValue={field.onChange}>
      {TYPES.map(([value, name]) => (
        <Option key={value} value={value}>
          {name}
        </Option>
      ))}
    </Select>
  );
}

function Stages({ stages }: { stages: readonly DealStage[] }) {
  const saved = useSavedSetup(words.theStagesAreSaved);
  const form = useBodyForm('setDealStages', {
    values: { stages: [...stages] },
    input: (body) => ({ body }),
    onDone: saved,
  });
  const { control, register, reset } = form.fields;
  useEffect(() => reset({ stages: [...stages] }), [stages, reset]);
  const list = useFieldArray({ control, name: 'stages', keyName: 'rowId' });
  const rows = useWatch({ control, name: 'stages' });
  const takeSet = (wanted: string): void => {
    const set = STAGE_SETS.find(({ key }) => key === wanted);
    if (set) list.replace(withStageSet([...rows, ...stages], set));
  };
  return (
    <section aria-label={words.stages} className="mt-8 border-t border-line pt-4">
      <h2 className="mb-1 text-lg">{words.stages}</h2>
      <p className="mb-3 max-w-prose text-muted">{words.inThisOrderOn}</p>
      <Form form={form} className="">
        <ol className="space-y-1.5">
          {list.fields.map(({ rowId }, at) => (
            <OrderedRow
              key={rowId}
              label={words.nameOfStage(at + 1)}
              name={rows[at]?.name ?? ''}
              nameInput={register(`stages.${at}.name`)}
              openInput={register(`stages.${at}.open`)}
              removing={words.theStage}
              onUp={at === 0 ? undefined : () => list.move(at, at - 1)}
              onDown={at === list.fields.length - 1 ? undefined : () => list.move(at, at + 1)}
              onRemove={() => list.remove(at)}
            />
          ))}
        </ol>
        <Trouble error={form.error} />
        <div className="mt-3 flex gap-2">
          <Button onClick={() => list.append({ id: null, name: '', open: true })}>{words.addAStage}</Button>
          <Button kind="main" type="submit" disabled={form.pending || rows.some((row) => !row.name.trim())}>
            {words.saveTheStages}
          </Button>
          <Select aria-label={words.readyMadeSets} fit="words" value="" onValue={(key) => takeSet(key)}>
            <Option value="">{words.fillInASet}</Option>
            {STAGE_SETS.map(({ key, purpose }) => (
              <Option key={key} value={key}>
                {purpose}
              </Option>
            ))}
          </Select>
        </div>
      </Form>
    </section>
  );
}
