import type { RecordKind } from '@fulvet/contract';
import { useNavigate } from 'react-router';
import { useRecordSetup, useRefreshAll } from '../api/queries';
import { Form, FormEnd, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
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
  const go = useNavigate();
  const refresh = useRefreshAll();
  const setup = useRecordSetup();
  const asked = [['name', 'Name', ''] as const, ...ASKED[kind]];
  const form = useBodyForm('createRecord', {
    values: Object.fromEntries(asked.map(([field]) => [field, ''])),
    input: (values) => ({ kind, body: { values: Object.fromEntries(Object.entries(values).filter(([, text]) => text.trim())) } }),
    onDone: async ({ id }) => {
      await refresh();
      onClose();
      void go(recordPath(kind, id));
    },
  });
  return (
    <Modal open onClose={onClose} title={`New ${KIND_LABELS[kind].one.toLowerCase()}`}>
      <Form form={form}>
        {asked.map(([field, label, hint]) => (
          <TextField
            key={field}
            form={form}
            name={field}
            label={label}
            list={field === 'stage' ? 'stages' : undefined}
            {...(hint ? { hint } : {})}
          />
        ))}
        <datalist id="stages">
          {setup.data?.stages.map((stage) => (
            <option key={stage.name} value={stage.name} />
          ))}
        </datalist>
        <FormEnd form={form} label="Create" disabled={!form.fields.watch('name')?.trim()} onCancel={onClose} />
      </Form>
    </Modal>
  );
}
