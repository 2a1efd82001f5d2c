import type { DocumentContent, DocumentDetail, User } from '@fulvet/contract';
import { useQueryClient } from '@tanstack/react-query';
import { useController } from 'react-hook-form';
import { useState } from 'react';
import { answersOf } from '../../api/asked';
import { call } from '../../api/call';
import { queryOf, sendFile } from '../../api/client';
import { Button, Field } from '../../parts/basics';
import { DatePicker } from '../../parts/DatePicker';
import { faultsOf } from '../../parts/form/faultsOf';
import { Form, FormEnd, TextField } from '../../parts/form/Form';
import type { SentForm } from '../../parts/form/useSentForm';
import { useSentForm } from '../../parts/form/useSentForm';
import { useNotice } from '../../parts/Notices';
import { common } from '../../parts/words';
import { ScopeFields, teamOf } from '../ScopeFields';
import { RemoveKept } from '../RemoveKept';
import { documentEditor as words } from './words';

interface Values {
  title: string;
  topic: string;
  scope: DocumentDetail['scope'];
  teamId: string;
  language: string;
  /** Empty: no end. */
  validUntil: string;
}

const NEW: Values = { title: '', topic: '', scope: 'own', teamId: '', language: '', validUntil: '' };

const valuesOf = ({ title, topic, scope, team, language, validUntil }: DocumentDetail): Values => ({
  title,
  topic,
  scope,
  teamId: String(team?.id ?? ''),
  language,
  validUntil: validUntil ?? '',
});

const contentOf = (values: Values): DocumentContent => ({ ...values, teamId: teamOf(values), validUntil: values.validUntil || null });

/** A version is sent as the body. */
export const sendVersion = (id: number, file: File): Promise<unknown> =>
  sendFile(`/documents/${id}/versions${queryOf({ name: file.name, type: file.type || undefined })}`, file);

export const useRefreshDocuments = (): (() => Promise<void>) => {
  const client = useQueryClient();
  return () => client.invalidateQueries(answersOf('listDocuments', 'getDocument', 'listDocumentLinks'));
};

interface Props {
  user: User;
  /** Null: a new one, with its first file. */
  document: DocumentDetail | null;
  onMade: (id: number) => void;
  onGone: () => void;
}

/** What is said of a document. */
export function DocumentEditor({ user, document, onMade, onGone }: Props) {
  const notice = useNotice();
  const refresh = useRefreshDocuments();
  const [file, setFile] = useState<File | null>(null);
  const form = useSentForm({
    values: document ? valuesOf(document) : NEW,
    faults: (values) => faultsOf('createDocument', contentOf(values)),
    send: async (values: Values) => {
      if (document) return call('saveDocument', { id: document.id, body: { ...contentOf(values), revision: document.revision } });
      const made = await call('createDocument', { body: contentOf(values) });
      // Where the file is refused, the document is there, and its page says what is missing.
      if (file)
        await sendVersion(made.id, file).catch((failure: unknown) => notice(failure instanceof Error ? failure.message : String(failure)));
      return made;
    },
    onDone: async (made) => {
      await refresh();
      notice(words.saved(made.title));
      onMade(made.id);
    },
  });
  if (document && !document.isMine)
    return (
      <div>
        <h2 className="text-lg">{document.title}</h2>
        <p className="text-muted">{words.ofSomeoneElse(document.owner)}</p>
      </div>
    );
  return (
    <Form form={form} label={document?.title ?? common.name} className="min-w-0 max-w-3xl space-y-3">
      <div className="grid gap-3 sm:grid-cols-2">
        <TextField form={form} name="title" label={words.documentTitle} />
        <TextField form={form} name="topic" label={words.topic} />
        <ScopeFields form={form} user={user} />
        <TextField form={form} name="language" label={words.language} hint={words.languageHint} />
        <ValidUntil form={form} />
      </div>
      {!document && <FirstFile file={file} onFile={setFile} />}
      <div className="flex flex-wrap items-start gap-2">
        <FormEnd form={form} label={document ? words.save : words.add} disabled={!document && file === null} />
        {document && <RemoveDocument document={document} onGone={onGone} />}
      </div>
    </Form>
  );
}

function ValidUntil({ form }: { form: SentForm<Values> }) {
  const { field, fieldState } = useController({ control: form.fields.control, name: 'validUntil' });
  return (
    <Field label={words.validUntil} error={fieldState.error?.message} hint={words.afterThatDay}>
      <span className="flex flex-wrap items-center gap-2">
        <DatePicker label="" name={words.validUntil} empty={words.noEnd} fit="words" value={field.value} onValue={field.onChange} />
        {field.value !== '' && (
          <Button kind="quiet" onClick={() => field.onChange('')}>
            {words.noEndAgain}
          </Button>
        )}
      </span>
    </Field>
  );
}

function FirstFile({ file, onFile }: { file: File | null; onFile: (file: File | null) => void }) {
  return (
    <label className="inline-flex min-h-8 cursor-pointer items-center gap-2 rounded border border-dashed border-line px-2.5 focus-within:outline-2 hover:border-muted">
      <input type="file" className="sr-only" onChange={(event) => onFile(event.target.files?.[0] ?? null)} />
      {file ? file.name : words.chooseAFile}
    </label>
  );
}

function RemoveDocument({ document: { id, title }, onGone }: { document: DocumentDetail; onGone: () => void }) {
  return (
    <RemoveKept
      remove={() => call('removeDocument', { id })}
      restore={() => call('restoreDocument', { id })}
      refresh={useRefreshDocuments()}
      onGone={onGone}
      words={{ ...words, removed: words.removed(title), restored: words.restored(title) }}
    />
  );
}
