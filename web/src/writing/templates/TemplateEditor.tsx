import type { Template, TemplateContent, TemplateFigures, User } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { useState } from 'react';
import { useController } from 'react-hook-form';
import { answersOf } from '../../api/asked';
import { call } from '../../api/call';
import { Field, Trouble } from '../../parts/basics';
import { filled } from '../../parts/filled';
import { faultsOf } from '../../parts/form/faultsOf';
import { Form, FormEnd, SelectField, TextField, TicksField } from '../../parts/form/Form';
import type { SentForm } from '../../parts/form/useSentForm';
import { useSentForm } from '../../parts/form/useSentForm';
import { useNotice } from '../../parts/Notices';
import { RecordPicker } from '../../parts/RecordPicker';
import type { PickedRecord } from '../../parts/RecordPicker';
import { Option } from '../../parts/Select';
import { useDecisionPanel } from '../../parts/useDecisionPanel';
import { common } from '../../parts/words';
import { useDocuments } from '../documents/queries';
import { Paragraphs } from '../Paragraphs';
import { ScopeFields, teamOf } from '../ScopeFields';
import { RemoveKept } from '../RemoveKept';
import TextEditor from '../TextEditor';
import { FromEmailFile, TemplateFileLink } from './TemplateFile';
import { useMergeFields } from './queries';
import { kindHints, kinds, states, templateEditor as words } from './words';

interface Values {
  kind: Template['kind'];
  name: string;
  folder: string;
  scope: Template['scope'];
  teamId: string;
  language: string;
  shortcut: string;
  subject: string;
  html: string;
  state: Template['state'];
  /** Ids. */
  documents: string[];
}

const NEW: Values = {
  kind: 'template',
  name: '',
  folder: '',
  scope: 'own',
  teamId: '',
  language: '',
  shortcut: '',
  subject: '',
  html: '',
  state: 'published',
  documents: [],
};

const valuesOf = ({ kind, name, folder, scope, team, language, shortcut, subject, html, state, documents }: Template): Values => ({
  kind,
  name,
  folder,
  scope,
  teamId: String(team?.id ?? ''),
  language,
  shortcut,
  subject,
  html,
  state,
  documents: documents.map(({ id }) => String(id)),
});

/** What is of no use for a kind is not kept for it. */
const contentOf = ({ documents, ...values }: Values): TemplateContent => ({
  ...values,
  teamId: teamOf(values),
  documentIds: documents.map(Number),
  shortcut: values.kind === 'block' ? values.shortcut : '',
  subject: values.kind === 'template' ? values.subject : '',
});

interface Props {
  user: User;
  /** Null: a new one. */
  template: Template | null;
  figures: TemplateFigures | null;
  /** What a new one begins with. */
  beginning?: Partial<Pick<Values, 'subject' | 'html'>>;
  onMade: (id: number) => void;
  onGone?: () => void;
}

/** A template as it is kept. Of someone else's, its text alone, and a way to keep a copy. */
export default function TemplateEditor({ user, template, figures, beginning, onMade, onGone }: Props) {
  const client = useQueryClient();
  const notice = useNotice();
  const refresh = (): Promise<void> => client.invalidateQueries(answersOf('listTemplates', 'getTemplate'));
  const mine = template === null || template.isMine;
  const form = useSentForm({
    values:
      template && mine ? valuesOf(template) : { ...NEW, ...(template ? { ...valuesOf(template), scope: 'own' as const } : beginning) },
    faults: (values) => faultsOf('createTemplate', contentOf(values)),
    send: (values: Values) =>
      template && mine
        ? call('saveTemplate', { id: template.id, body: { ...contentOf(values), revision: template.revision } })
        : call('createTemplate', { body: contentOf(values) }),
    onDone: async (made) => {
      await refresh();
      notice(words.saved(made.name));
      onMade(made.id);
    },
  });
  return (
    <div className="min-w-0 max-w-3xl">
      {template && !mine && <p className="mb-3 text-muted">{words.ofSomeoneElse(template.owner)}</p>}
      {template === null && !beginning && (
        <FromEmailFile
          onMade={(made) => {
            void refresh();
            notice(words.saved(made.name));
            onMade(made.id);
          }}
        />
      )}
      <Form form={form} label={template?.name ?? common.name}>
        <About form={form} user={user} />
        <Written form={form} />
        <div className="flex flex-wrap items-start gap-2">
          <FormEnd form={form} label={mine ? words.save : words.copy} />
          {template && <TemplateFileLink id={template.id} />}
          {template && mine && <RemoveTemplate template={template} refresh={refresh} onGone={onGone} />}
        </div>
      </Form>
      {template && <ForRecord template={template} />}
      {figures && <Figures figures={figures} />}
    </div>
  );
}

function RemoveTemplate({
  template: { id, name },
  refresh,
  onGone = () => undefined,
}: {
  template: Template;
  refresh: () => Promise<void>;
  onGone: (() => void) | undefined;
}) {
  return (
    <RemoveKept
      remove={() => call('removeTemplate', { id })}
      restore={() => call('restoreTemplate', { id })}
      refresh={refresh}
      onGone={onGone}
      words={{ ...words, removed: words.removed(name), restored: words.restored(name) }}
    />
  );
}

function About({ form, user }: { form: SentForm<Values>; user: User }) {
  const kind = form.fields.watch('kind');
  return (
    <div className="grid gap-3 sm:grid-cols-2">
      <TextField form={form} name="name" label={words.name} />
      <TextField form={form} name="folder" label={words.folder} />
      <SelectField form={form} name="kind" label={words.kind} hint={kindHints[kind]}>
        {Object.entries(kinds).map(([value, label]) => (
          <Option key={value} value={value}>
            {label}
          </Option>
        ))}
      </SelectField>
      <SelectField form={form} name="state" label={words.state} hint={words.onlyPublished}>
        {Object.entries(states).map(([value, label]) => (
          <Option key={value} value={value}>
            {label}
          </Option>
        ))}
      </SelectField>
      <ScopeFields form={form} user={user} />
      <TextField form={form} name="language" label={words.language} hint={words.languageHint} />
      {kind === 'block' && <TextField form={form} name="shortcut" label={words.shortcut} className="font-mono" />}
    </div>
  );
}

function Written({ form }: { form: SentForm<Values> }) {
  const fields = useMergeFields().data?.fields ?? [];
  const documents = useDocuments('').data?.documents ?? [];
  const { field } = useController({ control: form.fields.control, name: 'html' });
  return (
    <>
      {form.fields.watch('kind') === 'template' && <TextField form={form} name="subject" label={words.subject} />}
      <Field label={words.text} hint={words.fieldsHint}>
        <div className="rounded border border-line bg-raised px-2 pt-1">
          <TextEditor label={words.text} html={field.value} isFocused={false} fields={fields} onHtml={field.onChange} />
        </div>
      </Field>
      {documents.length > 0 && (
        <TicksField
          form={form}
          name="documents"
          label={words.documents}
          none={words.noDocuments}
          options={documents.map(({ id, title, topic }) => ({ value: String(id), shown: [topic, title].filter(Boolean).join(' · ') }))}
        />
      )}
    </>
  );
}

/** How it looks for a record, as it is stored. */
function ForRecord({ template }: { template: Template }) {
  const [record, setRecord] = useState<PickedRecord | null>(null);
  const fill = useMutation({
    mutationFn: ({ kind, id }: PickedRecord) => call('fillTemplate', { id: template.id, body: { record: { kind, id } } }),
  });
  return (
    <section className="mt-6 border-t border-line pt-3" aria-label={words.tryItFor}>
      <RecordPicker
        label={words.tryItFor}
        onPick={(picked) => {
          setRecord(picked);
          fill.mutate(picked);
        }}
      >
        <button type="button" className="min-h-8 rounded border border-line bg-raised px-2.5 hover:border-muted">
          {record ? words.chosen(record.name) : words.tryItFor}
        </button>
      </RecordPicker>
      <Trouble error={fill.error} />
      {fill.data && (
        <div className="mt-2 border-l-2 border-line pl-3">
          {fill.data.subject !== '' && <p className="mb-1 font-medium">{fill.data.subject}</p>}
          <Paragraphs html={fill.data.html} />
          {fill.data.empty.length > 0 && (
            <p className="text-ochre">{filled(words.emptyFields, { fields: fill.data.empty.map(({ label }) => label).join(', ') })}</p>
          )}
        </div>
      )}
    </section>
  );
}

function Figures({ figures }: { figures: TemplateFigures }) {
  const panel = useDecisionPanel();
  return (
    <section className="mt-4 border-t border-line pt-3" aria-label={words.howItDid}>
      <p>{words.figures(figures.used, figures.answered, figures.medianHours)}</p>
      <ul aria-label={words.newestEmails} className="flex flex-wrap gap-x-3">
        {figures.emails.slice(0, 12).map((id) => (
          <li key={id}>
            <button type="button" className="text-spruce hover:underline" onClick={() => panel.open(id)}>
              #{id}
            </button>
          </li>
        ))}
      </ul>
    </section>
  );
}
