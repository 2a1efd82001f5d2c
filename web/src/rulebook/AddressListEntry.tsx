import type { AddressListEntryRow, AddressListRow } from '@fulvet/contract';
import { useMutation } from '@tanstack/react-query';
import { useState } from 'react';
import { call } from '../api/call';
import { DatePicker } from '../parts/DatePicker';
import { addressListEntry as words } from './words';

/** The note on an entry, edited in place. */
export function Note({ list, entry, onKept }: { list: AddressListRow; entry: AddressListEntryRow; onKept: () => Promise<void> }) {
  const [note, setNote] = useState(entry.note);
  const keep = useMutation({
    mutationFn: () => call('changeAddressListEntry', { list: list.id, id: entry.id, body: { note } }),
    onSuccess: onKept,
  });
  return (
    <input
      aria-label={words.noteOn(entry.value)}
      className="w-full rounded border border-transparent bg-transparent px-1.5 py-0.5 text-sm hover:border-line focus:border-line focus:bg-raised"
      placeholder={words.addANote}
      value={note}
      maxLength={500}
      onChange={(event) => setNote(event.target.value)}
      onBlur={() => note !== entry.note && keep.mutate()}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
    />
  );
}

const IN_PLACE = 'underline decoration-dotted underline-offset-4 hover:text-ink';

interface Edited {
  list: AddressListRow;
  entry: AddressListEntryRow;
  onKept: () => Promise<void>;
}

/** Whether a domain stands for its sub-domains too; one click changes it. */
export function Reach({ list, entry, onKept }: Edited) {
  const keep = useMutation({
    mutationFn: () => call('changeAddressListEntry', { list: list.id, id: entry.id, body: { exactly: !entry.exactly } }),
    onSuccess: onKept,
  });
  return (
    <button
      type="button"
      className={IN_PLACE}
      title={entry.exactly ? words.countItsSubDomains : words.countTheDomainAlone}
      disabled={keep.isPending}
      onClick={() => keep.mutate()}
    >
      {entry.exactly ? words.thisDomainAlone : words.withItsSubDomains}
    </button>
  );
}

/** The last day on which an entry counts, edited in place. */
export function Until({ list, entry, onKept }: Edited) {
  const keep = useMutation({
    mutationFn: (until: string) => call('changeAddressListEntry', { list: list.id, id: entry.id, body: { until: until || null } }),
    onSuccess: onKept,
  });
  return (
    <DatePicker
      fit="text"
      label="until"
      name={`Last day on which ${entry.value} counts`}
      empty={words.noEnd}
      value={entry.until ?? ''}
      disabled={keep.isPending}
      onValue={(value) => value !== (entry.until ?? '') && keep.mutate(value)}
    />
  );
}
