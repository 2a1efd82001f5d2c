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
import { recordPath } from '../parts/people';
import { Option } from '../parts/Select';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { person as words } from './words';

/** An external person who asks what is held about them, or to be forgotten. */
export function Person() {
  const [held, setHeld] = useState<PersonHeld | null>(null);
  const form = useBodyForm('findPerson', {
    values: { addresses: '' },
    input: ({ addresses }) => ({ body: { addresses: [...new Set(listOf(addresses.toLowerCase()))] } }),
    onDone: setHeld,
  });
  return (
    <section aria-label={words.aPersonWhoAsks}>
      <h2 className="text-lg">{words.aPersonWhoAsks}</h2>
      <p className="mb-2 text-sm text-muted">{words.exportOrEraseWhat}</p>
      <Form form={form} className="flex items-end gap-2">
        <div className="grow">
          <TextField form={form} name="addresses" label={words.theirAddresses} className="font-mono" placeholder="ida@harbour.example" />
        </div>
        <FormEnd form={form} kind="plain" label={common.find} />
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
      notice(words.doneForGoodCertificate(id));
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
        {held.names.length > 0 ? <strong>{held.names.slice(0, 3).join(', ')}</strong> : words.noOneOfThat}
        {nothing && words.nothingIsStoredThat}.
      </p>
      <ul className="mt-1 list-disc pl-5 text-sm">
        <li>{words.emailsWithNoOther(held.emailsAlone)}</li>
        <li>{words.emailsWithOthers(held.emailsShared)}</li>
        <li>{words.emailsOfOthersName(held.mentions)}</li>
        {held.records.map((record) => (
          <li key={`${record.kind}${record.id}`}>
            {filled(words.the, {
              kind: record.kind,
              recordName: (
                <Link className="text-spruce hover:underline" to={recordPath(record.kind, record.id)}>
                  {record.name}
                </Link>
              ),
            })}
          </li>
        ))}
        {held.rules.map((rule) => (
          <li key={rule}>{words.namedByChangeThat(rule)}</li>
        ))}
        {held.further.map((value) => (
          <li key={value}>
            {filled(words.theirRecordHasAs, { value: <Address>{value}</Address> })}{' '}
            <button type="button" className="text-spruce hover:underline" onClick={() => more(value)}>
              {words.lookForThatToo}
            </button>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-sm text-muted">{words.ofWhatYouMay}</p>
      <Button className="mt-2" disabled={exporting.isPending} onClick={() => exporting.mutate()}>
        {words.exportAllOfIt}
      </Button>
      <Form form={form} className="mt-3 space-y-3 border-t border-line pt-3">
        <div className="grid gap-3 sm:grid-cols-2">
          <SelectField form={form} name="way" label={words.emailsWithNoOtherExternal}>
            <Option value="erase">{words.goWithTheirSources}</Option>
            <Option value="anonymise">{words.stayWithoutThePerson}</Option>
          </SelectField>
          <TextField form={form} name="reference" label={words.yourReferenceNotTheir} />
        </div>
        <TextField form={form} name="confirm" label={words.writeAgainWhatIs(held.addresses[0] ?? '')} className="font-mono" />
        <Trouble error={exporting.error} />
        <FormEnd
          form={form}
          kind="danger"
          label={words.forgetThisPersonFor}
          pending={words.erasing}
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
    <ul className="mt-4 divide-y divide-line border-y border-line" aria-label={words.certificates}>
      {list.map((item) => (
        <li key={item.id} className="px-1 py-1.5">
          <details>
            <summary className="cursor-pointer">
              {filled(words.certificate, {
                itemId: item.id,
                reference: item.reference && `, ${item.reference}`,
                itemAt: <Moment at={item.at} className="text-muted" />,
              })}
            </summary>
            <pre className="mt-1 overflow-x-auto rounded bg-sunk p-2 text-xs whitespace-pre-wrap">{item.certificate}</pre>
            <a
              className="text-sm text-spruce hover:underline"
              download={`erasure-${item.id}.txt`}
              href={`data:text/plain;charset=utf-8,${encodeURIComponent(item.certificate)}`}
            >
              {words.saveAsAFile}
            </a>
          </details>
        </li>
      ))}
    </ul>
  );
}
