import type { OwnKind, RecordKind } from '@fulvet/contract';
import { useNavigate } from 'react-router';
import { useRecordSetup, useRefreshAll } from '../api/queries';
import { Form, FormEnd, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Modal } from '../parts/Modal';
import { KIND_LABELS, recordPath } from '../parts/people';
import { common } from '../parts/words';
import { newRecord as words } from './words';

type Asked = [field: string, label: string, hint: string];

const ASKED: Record<Exclude<RecordKind, 'own'>, Asked[]> = {
  account: [
    ['domains', words.domains, words.severalWithBetweenThem],
    ['type', words.type, ''],
  ],
  contact: [
    ['emails', words.addresses, words.severalBetweenThem],
    ['account', common.account, words.itsName],
    ['title', common.title, ''],
    ['phone', words.phones, ''],
  ],
  lead: [
    ['emails', words.addresses, words.severalBetweenThem],
    ['company', words.company, ''],
    ['status', words.status, ''],
  ],
  deal: [
    ['code', common.code, words.emailsThatNameIt],
    ['account', common.account, words.itsName],
    ['stage', common.stage, ''],
    ['amount', common.amount, ''],
    ['currency', words.currency, ''],
    ['people', words.people, words.addressesWithBetweenThem],
  ],
};

/** What is asked of a record of an own kind: what its kind has. */
function askedOf(own: OwnKind | null): Asked[] {
  const asked: Asked[] = [];
  if (own?.hasAccount) asked.push(['account', common.account, words.itsName]);
  if (own?.hasPeople) asked.push(['people', words.people, words.addressesWithBetweenThem]);
  if (own?.hasAddresses) asked.push(['emails', words.addresses, words.mailWithOneOf]);
  return asked;
}

/** Creates a record by hand; past mail of its addresses and domains comes under it. */
export function NewRecord({ kind, own, onClose }: { kind: RecordKind; own: OwnKind | null; onClose: () => void }) {
  const go = useNavigate();
  const refresh = useRefreshAll();
  const setup = useRecordSetup();
  const asked = [['name', common.name, ''] as const, ...(kind === 'own' ? askedOf(own) : ASKED[kind])];
  const form = useBodyForm('createRecord', {
    values: Object.fromEntries(asked.map(([field]) => [field, ''])),
    input: (values) => ({
      kind,
      body: {
        values: { ...Object.fromEntries(Object.entries(values).filter(([, text]) => text.trim())), ...(own ? { kind: own.key } : {}) },
      },
    }),
    onDone: async ({ id }) => {
      await refresh();
      onClose();
      void go(recordPath(kind, id));
    },
  });
  return (
    <Modal open onClose={onClose} title={words.new((own?.singular ?? KIND_LABELS[kind].one).toLowerCase())}>
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
        <FormEnd form={form} label={common.create} disabled={!form.fields.watch('name')?.trim()} onCancel={onClose} />
      </Form>
    </Modal>
  );
}
