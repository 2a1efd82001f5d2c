import type { SeriesContent, SeriesDetail, User } from '@fulvet/contract';
import { useQueryClient } from '@tanstack/react-query';
import { X } from 'lucide-react';
import { get, useController, useFieldArray, useWatch } from 'react-hook-form';
import { call } from '../../api/call';
import { Button, TextInput } from '../../parts/basics';
import { faultsOf } from '../../parts/form/faultsOf';
import { Form, FormEnd, TextField } from '../../parts/form/Form';
import type { SentForm } from '../../parts/form/useSentForm';
import { useSentForm } from '../../parts/form/useSentForm';
import { useNotice } from '../../parts/Notices';
import { Option, Select } from '../../parts/Select';
import { common } from '../../parts/words';
import { RemoveKept } from '../RemoveKept';
import { ScopeFields, teamOf } from '../ScopeFields';
import { useTemplates } from '../templates/queries';
import { SERIES_ANSWERS } from './queries';
import { seriesEditor as words } from './words';

interface StepValues {
  kind: 'email' | 'task';
  waitDays: string;
  /** Empty: none. */
  templateId: string;
  text: string;
}

interface Values {
  name: string;
  scope: SeriesDetail['scope'];
  teamId: string;
  language: string;
  steps: StepValues[];
}

const FIRST: StepValues = { kind: 'email', waitDays: '0', templateId: '', text: '' };
const NEXT = '3';
const NEW: Values = { name: '', scope: 'own', teamId: '', language: '', steps: [FIRST] };

const valuesOf = ({ name, scope, team, language, steps }: SeriesDetail): Values => ({
  name,
  scope,
  teamId: String(team?.id ?? ''),
  language,
  steps: steps.map(({ kind, waitDays, templateId, text }) => ({
    kind,
    waitDays: String(waitDays),
    templateId: String(templateId ?? ''),
    text,
  })),
});

/** What is of no use for a kind is not kept for it. */
const contentOf = (values: Values): SeriesContent => ({
  ...values,
  teamId: teamOf(values),
  steps: values.steps.map(({ kind, waitDays, templateId, text }) => ({
    kind,
    waitDays: waitDays.trim() === '' ? Number.NaN : Number(waitDays),
    templateId: kind === 'email' && templateId !== '' ? Number(templateId) : null,
    text: kind === 'task' ? text : '',
  })),
});

interface Props {
  user: User;
  /** Null: a new one. */
  series: SeriesDetail | null;
  onMade: (id: number) => void;
  onGone?: () => void;
}

/** A series as it is kept. Of someone else's, a way to keep a copy. */
export default function SeriesEditor({ user, series, onMade, onGone = () => undefined }: Props) {
  const client = useQueryClient();
  const notice = useNotice();
  const refresh = (): Promise<void> => client.invalidateQueries(SERIES_ANSWERS);
  const mine = series === null || series.isMine;
  const form = useSentForm({
    values: series ? { ...valuesOf(series), ...(mine ? {} : { scope: 'own' as const }) } : NEW,
    faults: (values) => faultsOf('createSeries', contentOf(values)),
    send: (values: Values) =>
      series && mine
        ? call('saveSeries', { id: series.id, body: { ...contentOf(values), revision: series.revision } })
        : call('createSeries', { body: contentOf(values) }),
    onDone: async (made) => {
      await refresh();
      notice(words.saved(made.name));
      onMade(made.id);
    },
  });
  return (
    <div className="min-w-0 max-w-3xl">
      {series && !mine && <p className="mb-3 text-muted">{words.ofSomeoneElse(series.owner)}</p>}
      <Form form={form} label={series?.name ?? common.name}>
        <div className="grid gap-3 sm:grid-cols-2">
          <TextField form={form} name="name" label={words.name} />
          <TextField form={form} name="language" label={words.language} hint={words.languageHint} />
          <ScopeFields form={form} user={user} />
        </div>
        <Steps form={form} />
        <div className="flex flex-wrap items-start gap-2">
          <FormEnd form={form} label={mine ? words.save : words.copy} />
          {series && mine && (
            <RemoveKept
              remove={() => call('removeSeries', { id: series.id })}
              restore={() => call('restoreSeries', { id: series.id })}
              refresh={refresh}
              onGone={onGone}
              words={{ ...words, removed: words.removed(series.name), restored: words.restored(series.name) }}
            />
          )}
        </div>
      </Form>
    </div>
  );
}

function Steps({ form }: { form: SentForm<Values> }) {
  const list = useFieldArray({ control: form.fields.control, name: 'steps', keyName: 'rowId' });
  return (
    <section aria-label={words.steps}>
      <h2 className="mb-1 text-sm font-medium">{words.steps}</h2>
      <ol className="divide-y divide-line border-y border-line">
        {list.fields.map(({ rowId }, at) => (
          <Step key={rowId} form={form} at={at} remove={list.fields.length > 1 ? () => list.remove(at) : null} />
        ))}
      </ol>
      <p className="mt-1 text-sm text-muted">{words.conversation}</p>
      <div className="mt-2 flex gap-2">
        <Button onClick={() => list.append({ ...FIRST, waitDays: NEXT })}>{words.addEmail}</Button>
        <Button onClick={() => list.append({ ...FIRST, kind: 'task', waitDays: NEXT })}>{words.addTask}</Button>
      </div>
    </section>
  );
}

function Step({ form, at, remove }: { form: SentForm<Values>; at: number; remove: (() => void) | null }) {
  const { control, register, formState } = form.fields;
  const number = at + 1;
  const kind = useController({ control, name: `steps.${at}.kind` }).field;
  const wait = useWatch({ control, name: `steps.${at}.waitDays` });
  const fault = messagesIn(get(formState.errors, `steps.${at}`));
  return (
    <li className="py-2">
      <div className="grid grid-cols-[1.5rem_minmax(0,1fr)_auto] items-center gap-2 sm:grid-cols-[1.5rem_11rem_7rem_minmax(0,1fr)_auto]">
        <span className="tabular text-muted" aria-hidden>
          {number}
        </span>
        <span className="flex items-center gap-2 text-sm">
          <TextInput
            aria-label={words.waitOf(number)}
            inputMode="numeric"
            className="w-14! text-right"
            aria-invalid={fault !== '' || undefined}
            {...register(`steps.${at}.waitDays`)}
          />
          <span className="text-muted">{at === 0 ? words.atTheBeginning : words.days(Number(wait))}</span>
        </span>
        <div className="max-sm:order-1 max-sm:col-span-full">
          <Select aria-label={words.kindOf(number)} value={kind.value} onValue={kind.onChange}>
            <Option value="email">{words.email}</Option>
            <Option value="task">{words.task}</Option>
          </Select>
        </div>
        <div className="min-w-0 max-sm:order-1 max-sm:col-span-full">
          {kind.value === 'email' ? (
            <TemplateOf form={form} at={at} />
          ) : (
            <TextInput aria-label={words.taskOf(number)} placeholder={words.taskHint} {...register(`steps.${at}.text`)} />
          )}
        </div>
        {remove ? (
          <Button kind="quiet" aria-label={words.removeStep(number)} onClick={remove}>
            <X size={14} />
          </Button>
        ) : (
          <span />
        )}
      </div>
      {fault !== '' && (
        <p className="mt-1 text-sm text-brick sm:pl-8" role="alert">
          {fault}
        </p>
      )}
    </li>
  );
}

/** What is wrong with a step, in words. */
function messagesIn(error: unknown): string {
  if (typeof error !== 'object' || error === null) return '';
  if ('message' in error && typeof error.message === 'string') return error.message;
  return Object.values(error).map(messagesIn).filter(Boolean).join(' ');
}

function TemplateOf({ form, at }: { form: SentForm<Values>; at: number }) {
  const found = useTemplates('').data?.templates;
  const { field } = useController({ control: form.fields.control, name: `steps.${at}.templateId` });
  const templates = (found ?? []).filter(({ kind }) => kind === 'template');
  const isGone = found !== undefined && field.value !== '' && !templates.some(({ id }) => String(id) === field.value);
  return (
    <Select aria-label={words.templateOf(at + 1)} value={field.value} onValue={field.onChange}>
      <Option value="">{words.chooseATemplate}</Option>
      {isGone && <Option value={field.value}>{words.goneTemplate}</Option>}
      {templates.map(({ id, name, folder, language }) => (
        <Option key={id} value={String(id)}>
          {[folder, name, language].filter(Boolean).join(' · ')}
        </Option>
      ))}
    </Select>
  );
}
