import type { RecordKind } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { ApiFailure } from '../api/client';
import { call } from '../api/call';
import { useRecordSetup, useRefreshAll } from '../api/queries';
import { Button, Field, TextInput, Trouble } from '../parts/basics';
import { Modal } from '../parts/Modal';
import { KIND_LABELS, recordPath } from '../parts/people';

const ASKED: Record<RecordKind, [field: string, label: string, hint: string][]> = {
  account: [
    ['domains', 'Domains', 'Several with ; between them. Their mail comes under the account.'],
    ['type', 'Type', ''],
  ],
  contact: [
    ['emails', 'Addresses', 'Several with ; between them.'],
    ['account', 'Account', 'Its name.'],
    ['title', 'Title', ''],
    ['phone', 'Phones', ''],
  ],
  lead: [
    ['emails', 'Addresses', 'Several with ; between them.'],
    ['company', 'Company', ''],
    ['status', 'Status', ''],
  ],
  deal: [
    ['code', 'Code', 'Emails that name it are filed here.'],
    ['account', 'Account', 'Its name.'],
    ['stage', 'Stage', ''],
    ['amount', 'Amount', ''],
    ['currency', 'Currency', ''],
    ['people', 'People', 'Addresses, with ; between them.'],
  ],
};

/** Creates a record by hand; past mail of its addresses and domains comes under it. */
export function NewRecord({ kind, onClose }: { kind: RecordKind; onClose: () => void }) {
  const [values, setValues] = useState<Record<string, string>>({});
  const go = useNavigate();
  const refresh = useRefreshAll();
  const setup = useRecordSetup();
  const create = useMutation({
    mutationFn: () =>
      call('createRecord', {
        kind,
        body: {
          values: Object.fromEntries(Object.entries(values).filter(([, text]) => text.trim())),
        },
      }),
    onSuccess: async ({ id }) => {
      await refresh();
      onClose();
      void go(recordPath(kind, id));
    },
  });
  const wrong = create.error instanceof ApiFailure ? create.error.fields : {};
  const input = (field: string) => (
    <TextInput
      value={values[field] ?? ''}
      list={field === 'stage' ? 'stages' : undefined}
      onChange={(event) => setValues((all) => ({ ...all, [field]: event.target.value }))}
    />
  );
  return (
    <Modal open onClose={onClose} title={`New ${KIND_LABELS[kind].one.toLowerCase()}`}>
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          create.mutate();
        }}
      >
        <Field label="Name" error={wrong.name}>
          {input('name')}
        </Field>
        {ASKED[kind].map(([field, label, hint]) => (
          <Field key={field} label={label} error={wrong[field]} {...(hint ? { hint } : {})}>
            {input(field)}
          </Field>
        ))}
        <datalist id="stages">
          {setup.data?.stages.map((stage) => (
            <option key={stage.name} value={stage.name} />
          ))}
        </datalist>
        {Object.keys(wrong).length === 0 && <Trouble error={create.error} />}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button kind="main" type="submit" disabled={create.isPending || !values.name?.trim()}>
            Create
          </Button>
        </div>
      </form>
    </Modal>
  );
}
