import type { AddressListEntryRow, AddressListRow, Answer } from '@fulvet/contract';
import { useMutation, useQueryClient } from '@tanstack/react-query';
import { answersOf } from '../api/asked';
import { useDeferredValue, useState } from 'react';
import { call } from '../api/call';
import { useAddressListEntries, useAddressLists } from './queries';
import { Address, Button, Empty, Page, TextInput, Trouble } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { Form, FormEnd, TextField } from '../parts/form/Form';
import { useBodyForm } from '../parts/form/useBodyForm';
import { Moment } from '../parts/Moment';
import { useNotice } from '../parts/Notices';
import { counted } from '../parts/numbers';
import { useAddressBar } from '../parts/useAddressBar';
import { Note, Reach, Until } from './AddressListEntry';
import { DatePicker } from '../parts/DatePicker';
import { useUndo } from '../parts/useUndo';
import { common } from '../parts/words';
import { filled } from '../parts/filled';
import { addressListsPage as words } from './words';

/** Named lists of domains and addresses that rules refer to. */
export default function AddressListsPage() {
  const lists = useAddressLists();
  const [params, set] = useAddressBar();
  const all = lists.data?.lists ?? [];
  const chosen = all.find((item) => item.id === params.get('list')) ?? all.find((item) => !item.shipped);
  return (
    <Page title={words.addressLists} purpose={words.namedListsOfDomains} wide>
      <Trouble error={lists.error} />
      <div className="grid gap-x-10 gap-y-6 lg:grid-cols-[17rem_minmax(0,1fr)]">
        <section aria-label={words.lists}>
          <Names lists={all.filter((item) => !item.shipped)} chosen={chosen} onChoose={(list) => set({ list })} />
          <NewList onMade={(id) => set({ list: id })} />
          <h2 className="mt-6 mb-1 text-sm font-medium text-muted">{words.forEveryRulebook}</h2>
          <Names lists={all.filter((item) => item.shipped)} chosen={chosen} onChoose={(list) => set({ list })} />
        </section>
        {chosen ? (
          <Entries key={chosen.id} list={chosen} />
        ) : (
          lists.data && <Empty title={words.noListOfYour}>{words.createOneOnThe}</Empty>
        )}
      </div>
    </Page>
  );
}

function Names({
  lists,
  chosen,
  onChoose,
}: {
  lists: readonly AddressListRow[];
  chosen: AddressListRow | undefined;
  onChoose: (id: string) => void;
}) {
  return (
    <ul className="divide-y divide-line border-y border-line empty:border-0">
      {lists.map((list) => (
        <li key={list.id}>
          <button
            type="button"
            aria-current={list.id === chosen?.id}
            className={clsx('block w-full px-2 py-1.5 text-left hover:bg-sunk', list.id === chosen?.id && 'bg-raised')}
            onClick={() => onChoose(list.id)}
          >
            <span className="font-medium">{list.name}</span>
            <span className="tabular block text-sm text-muted">
              {counted(list.entries, 'entry', 'entries')}
              {list.id !== ROLES && words.emailIn30Days(list.took)}
            </span>
          </button>
        </li>
      ))}
    </ul>
  );
}

const ROLES = 'role-addresses';

function NewList({ onMade }: { onMade: (id: string) => void }) {
  const client = useQueryClient();
  const form = useBodyForm('createAddressList', {
    values: { name: '' },
    input: ({ name }) => ({ body: { name: name.trim() } }),
    onDone: async (made) => {
      form.fields.reset();
      await client.invalidateQueries(answersOf('listAddressListEntries', 'listAddressLists'));
      onMade(made.id);
    },
  });
  return (
    <Form form={form} label={words.newList} className="mt-3 space-y-2">
      <TextField form={form} name="name" label={words.nameOfANew} maxLength={100} />
      <FormEnd form={form} kind="plain" label={words.createTheList} />
    </Form>
  );
}

function Entries({ list }: { list: AddressListRow }) {
  const [text, setText] = useState('');
  const entries = useAddressListEntries(list.id, useDeferredValue(text.trim()));
  const client = useQueryClient();
  const notice = useNotice();
  const again = (): Promise<void> => client.invalidateQueries(answersOf('listAddressListEntries', 'listAddressLists'));
  const undo = useUndo();
  const remove = useMutation({
    mutationFn: (entry: AddressListEntryRow) => call('removeAddressListEntry', { list: list.id, id: entry.id }),
    onSuccess: async (removed, entry) => {
      await again();
      notice(words.isOffTheList(entry.value), undo(removed.undo));
    },
  });
  const drop = useMutation({
    mutationFn: () => call('deleteAddressList', { list: list.id }),
    onSuccess: async (deleted) => {
      await again();
      notice(words.theListWasDeleted(list.name), undo(deleted.undo));
    },
  });
  return (
    <section aria-label={words.entriesOf(list.name)} className="min-w-0">
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <h2 className="text-lg">{list.name}</h2>
        <span className="grow text-sm text-muted">
          {list.usedBy.length > 0 ? words.usedBy(list.usedBy.join(', ')) : words.usedByNoRule}
        </span>
        <a className="text-sm text-spruce hover:underline" href={`/api/v1/address-lists/${list.id}/export`}>
          {words.csv}
        </a>
        {!list.shipped && (
          <Button kind="quiet" className="text-brick" disabled={drop.isPending} onClick={() => drop.mutate()}>
            {words.removeTheList}
          </Button>
        )}
      </div>
      {list.note && <p className="mb-2 text-muted">{list.note}</p>}
      <Trouble error={drop.error ?? remove.error ?? entries.error} />
      <Paste list={list} />
      {list.entries > 8 && (
        <TextInput
          aria-label={words.findAnEntry}
          placeholder={words.findAnEntry}
          className="mt-4 w-60!"
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
      )}
      <ul className="mt-3 divide-y divide-line border-y border-line empty:border-0">
        {entries.data?.entries.map((entry) => (
          <li
            key={entry.id}
            className="grid grid-cols-[minmax(0,1fr)_auto] items-baseline gap-x-3 px-1 py-1 md:grid-cols-[minmax(0,1fr)_11rem_5.5rem_4.5rem_auto]"
          >
            <span className="min-w-0">
              <Address className="font-medium">{entry.value}</Address>
              <span className="block text-sm text-muted">
                {entry.kind === 'domain' && <Reach list={list} entry={entry} onKept={again} />}
                {entry.kind === 'local' && words.anywhere}
                {entry.kind !== 'address' && ' · '}
                <Until list={list} entry={entry} onKept={again} />
                {entry.coveredBy && <span className="text-ochre"> {words.coveredByAlready(entry.coveredBy)}</span>}
              </span>
            </span>
            <Note list={list} entry={entry} onKept={again} />
            <span className="tabular text-right text-sm text-muted max-md:hidden">
              {entry.kind === 'local' ? '' : counted(entry.took, 'email')}
            </span>
            <span className="text-right text-sm text-muted max-md:hidden" title={entry.by ?? ''}>
              <Moment at={entry.at} />
            </span>
            <Button
              kind="quiet"
              className="min-h-6! text-muted"
              aria-label={words.removeFromTheList(entry.value)}
              onClick={() => remove.mutate(entry)}
            >
              {common.remove}
            </Button>
          </li>
        ))}
      </ul>
      {entries.data && entries.data.total > entries.data.entries.length && (
        <p className="mt-2 text-muted">{words.theFirstOfFind(entries.data.entries.length, entries.data.total)}</p>
      )}
    </section>
  );
}

function Paste({ list }: { list: AddressListRow }) {
  const client = useQueryClient();
  const notice = useNotice();
  const undo = useUndo();
  const [pasted, setPasted] = useState<Answer<'pasteAddressListEntries'> | null>(null);
  const form = useBodyForm('pasteAddressListEntries', {
    values: { text: '', note: '', until: '' },
    input: ({ text, note, until }) => ({ list: list.id, body: { text, note, until: until || null } }),
    onDone: async (answer) => {
      setPasted(answer);
      form.fields.setValue('text', answer.unread.join('\n'));
      await client.invalidateQueries(answersOf('listAddressListEntries', 'listAddressLists'));
      if (answer.added > 0) notice(words.entriesAddedTo(answer.added, list.name), undo(answer.undo));
    },
  });
  return (
    <Form form={form} className="">
      <textarea
        aria-label={words.domainsAndAddressesTo}
        className="h-20 w-full rounded border border-line bg-raised p-2 font-mono text-sm"
        spellCheck={false}
        placeholder={list.id === ROLES ? words.billingHarbourmaster : words.pressExampleClerkClerk}
        {...form.fields.register('text')}
      />
      <div className="mt-1 flex flex-wrap items-end gap-3">
        <div className="w-56">
          <TextField form={form} name="note" label={words.noteOnThem} />
        </div>
        <div className="w-40">
          <span className="mb-1 block text-sm font-medium">{common.until}</span>
          <DatePicker
            label={common.until}
            empty={words.noEnd}
            value={form.fields.watch('until')}
            onValue={(day) => form.fields.setValue('until', day)}
          />
        </div>
        <FormEnd form={form} kind="plain" label={words.addToTheList} disabled={form.fields.watch('text').trim() === ''} />
        {pasted && (
          <span role="status">
            {filled(words.added, {
              added: counted(pasted.added, 'entry', 'entries'),
              known: pasted.known > 0 && words.thereAlready(pasted.known),
              manyUnread: pasted.unread.length > 0 && <span className="text-brick">{words.pieceCouldNotBe(pasted.unread.length)}</span>,
            })}
          </span>
        )}
      </div>
    </Form>
  );
}
