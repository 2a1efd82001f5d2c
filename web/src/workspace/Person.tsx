import type { PersonHeld } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { useErasures } from './queries';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Address, Button, Trouble } from '../parts/basics';
import { Form, FormEnd, SelectField, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { listOf } from '../parts/listOf';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import { recordPath } from '../parts/people';
import { Option } from '../parts/Select';

/** An external person who asks what is held about them, or to be forgotten. */
export function Person() {
  const [held, setHeld] = useState<PersonHeld | null>(null);
  const form = useBodyForm('findPerson', {
    values: { addresses: '' },
    input: ({ addresses }) => ({ body: { addresses: [...new Set(listOf(addresses.toLowerCase()))] } }),
    onDone: setHeld,
  });
  return (
    <section aria-label="A person who asks">
      <h2 className="text-lg">A person who asks</h2>
      <p className="mb-2 text-sm text-muted">Export or erase what is stored about an external person, at their request.</p>
      <Form form={form} className="flex items-end gap-2">
        <div className="grow">
          <TextField form={form} name="addresses" label="Their addresses" className="font-mono" placeholder="ida@harbour.example" />
        </div>
        <FormEnd form={form} kind="plain" label="Find" />
      </Form>
      {held && (
        <Held
          key={held.addresses.join()}
          held={held}
          more={(address) => {
            form.fields.setValue('addresses', `${form.fields.getValues('addresses')} ${address}`);
            form.send();
          }}
        />
      )}
      <Erasures />
    </section>
  );
}

function Held({ held, more }: { held: PersonHeld; more: (address: string) => void }) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  const form = useBodyForm('erasePerson', {
    values: { way: 'erase' as 'erase' | 'anonymise', reference: '', confirm: '' },
    input: (values) => ({ body: { addresses: held.addresses, ...values } }),
    onDone: async ({ id }) => {
      await refresh();
      form.fields.setValue('confirm', '');
      notice(`Done for good. Certificate ${id} is below.`);
    },
  });
  const exporting = useMutation({
    mutationFn: async () => {
      const made = await call('exportPerson', { body: { addresses: held.addresses } });
      const link = document.createElement('a');
      link.href = URL.createObjectURL(new Blob([JSON.stringify(made, null, 2)], { type: 'application/json' }));
      link.download = 'person.json';
      link.click();
      URL.revokeObjectURL(link.href);
    },
  });
  const nothing = held.emailsAlone + held.emailsShared + held.mentions + held.records.length === 0;
  return (
    <div className="mt-3 rounded border border-line px-3 py-2">
      <p>
        {held.names.length > 0 ? <strong>{held.names.slice(0, 3).join(', ')}</strong> : 'No one of that address is known by name'}
        {nothing && ': nothing is stored that you may see'}.
      </p>
      <ul className="mt-1 list-disc pl-5 text-sm">
        <li>{counted(held.emailsAlone, 'email', 'emails')} with no other external participant</li>
        <li>{counted(held.emailsShared, 'email', 'emails')} with others</li>
        <li>{counted(held.mentions, 'email of others names', 'emails of others name')} them</li>
        {held.records.map((record) => (
          <li key={`${record.kind}${record.id}`}>
            the {record.kind}{' '}
            <Link className="text-spruce hover:underline" to={recordPath(record.kind, record.id)}>
              {record.name}
            </Link>
          </li>
        ))}
        {held.rules.map((rule) => (
          <li key={rule}>named by {rule}: change that by hand</li>
        ))}
        {held.further.map((value) => (
          <li key={value}>
            their record has <Address>{value}</Address> as well{' '}
            <button type="button" className="text-spruce hover:underline" onClick={() => more(value)}>
              look for that, too
            </button>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-sm text-muted">Of what you may know of. Sealed mail is not counted here, and is erased like all other.</p>
      <Button className="mt-2" disabled={exporting.isPending} onClick={() => exporting.mutate()}>
        Export all of it (JSON)
      </Button>
      <Form form={form} className="mt-3 space-y-3 border-t border-line pt-3">
        <div className="grid gap-3 sm:grid-cols-2">
          <SelectField form={form} name="way" label="Emails with no other external participant">
            <Option value="erase">go, with their sources</Option>
            <Option value="anonymise">stay, without the person</Option>
          </SelectField>
          <TextField form={form} name="reference" label="Your reference (not their name)" />
        </div>
        <TextField
          form={form}
          name="confirm"
          label={`Write ${held.addresses[0] ?? ''} again: what is erased does not come back`}
          className="font-mono"
        />
        <Trouble error={exporting.error} />
        <FormEnd
          form={form}
          kind="danger"
          label="Forget this person for good"
          pending="Erasing …"
          disabled={form.fields.watch('confirm').trim().toLowerCase() !== held.addresses[0]}
        />
      </Form>
    </div>
  );
}

function Erasures() {
  const erasures = useErasures();
  const list = erasures.data?.erasures ?? [];
  if (list.length === 0) return null;
  return (
    <ul className="mt-4 divide-y divide-line border-y border-line" aria-label="Certificates">
      {list.map((item) => (
        <li key={item.id} className="px-1 py-1.5">
          <details>
            <summary className="cursor-pointer">
              Certificate {item.id}
              {item.reference && `, ${item.reference}`} <Moment at={item.at} className="text-muted" />
            </summary>
            <pre className="mt-1 overflow-x-auto rounded bg-sunk p-2 text-xs whitespace-pre-wrap">{item.certificate}</pre>
            <a
              className="text-sm text-spruce hover:underline"
              download={`erasure-${item.id}.txt`}
              href={`data:text/plain;charset=utf-8,${encodeURIComponent(item.certificate)}`}
            >
              Save as a file
            </a>
          </details>
        </li>
      ))}
    </ul>
  );
}
