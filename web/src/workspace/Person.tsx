import type { PersonHeld } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { Link } from 'react-router';
import { useErasures } from './queries';
import { call } from '../api/call';
import { useRefreshAll } from '../api/queries';
import { Address, Button, Field, TextInput, Trouble } from '../parts/basics';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import { recordPath } from '../parts/people';
import { Select } from '../parts/Select';

/** A person outside who asks what is held about them, or to be forgotten. */
export function Person() {
  const [text, setText] = useState('');
  const addresses = [
    ...new Set(
      text
        .toLowerCase()
        .split(/[\s,;]+/)
        .filter(Boolean),
    ),
  ];
  const find = useMutation({ mutationFn: (wanted: string[]) => call('findPerson', { body: { addresses: wanted } }) });
  return (
    <section aria-label="A person who asks">
      <h2 className="text-lg">A person who asks</h2>
      <p className="mb-2 text-sm text-muted">Somebody outside wants to know what is held about them, or to be forgotten.</p>
      <form
        className="flex items-end gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          find.mutate(addresses);
        }}
      >
        <div className="grow">
          <Field label="Their addresses">
            <TextInput
              required
              className="font-mono"
              name="person-addresses"
              value={text}
              placeholder="ida@harbour.example"
              onChange={(event) => setText(event.target.value)}
            />
          </Field>
        </div>
        <Button type="submit" disabled={find.isPending || addresses.length === 0}>
          Find
        </Button>
      </form>
      <Trouble error={find.error} />
      {find.data && (
        <Held
          key={find.data.addresses.join()}
          held={find.data}
          more={(address) => {
            setText(`${text} ${address}`);
            find.mutate([...addresses, address]);
          }}
        />
      )}
      <Erasures />
    </section>
  );
}

function Held({ held, more }: { held: PersonHeld; more: (address: string) => void }) {
  const [way, setWay] = useState<'erase' | 'anonymise'>('erase');
  const [reference, setReference] = useState('');
  const [confirm, setConfirm] = useState('');
  const refresh = useRefreshAll();
  const notice = useNotice();
  const erase = useMutation({
    mutationFn: () => call('erasePerson', { body: { addresses: held.addresses, way, reference, confirm } }),
    onSuccess: async ({ id }) => {
      await refresh();
      setConfirm('');
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
        {held.names.length > 0 ? <strong>{held.names.slice(0, 3).join(', ')}</strong> : 'Nobody of that address is known by name'}
        {nothing && ': nothing is held that you may know of'}.
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
      <form
        className="mt-3 space-y-3 border-t border-line pt-3"
        onSubmit={(event) => {
          event.preventDefault();
          erase.mutate();
        }}
      >
        <div className="grid gap-3 sm:grid-cols-2">
          <Field label="Emails with no other external participant">
            <Select value={way} onChange={(event) => setWay(event.target.value === 'anonymise' ? 'anonymise' : 'erase')}>
              <option value="erase">go, with their sources</option>
              <option value="anonymise">stay, without the person</option>
            </Select>
          </Field>
          <Field label="Your reference (not their name)">
            <TextInput maxLength={200} value={reference} onChange={(event) => setReference(event.target.value)} />
          </Field>
        </div>
        <Field label={`Write ${held.addresses[0] ?? ''} again: what is erased does not come back`}>
          <TextInput className="font-mono" name="person-confirm" value={confirm} onChange={(event) => setConfirm(event.target.value)} />
        </Field>
        <Trouble error={erase.error ?? exporting.error} />
        <Button kind="danger" type="submit" disabled={erase.isPending || confirm.trim().toLowerCase() !== held.addresses[0]}>
          {erase.isPending ? 'Erasing …' : 'Forget this person for good'}
        </Button>
      </form>
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
