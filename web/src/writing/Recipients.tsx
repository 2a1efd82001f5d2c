import type { RecipientFound } from '@fulvet/contract';
import { Command } from 'cmdk';
import { X } from 'lucide-react';
import { useDeferredValue, useState } from 'react';
import { Address } from '../parts/basics';
import { useRecipients } from './queries';
import { recipientsField as words } from './words';

interface Person {
  name: string;
  address: string;
}

const ADDRESS = /^[^\s@<>,;]+@[^\s@<>,;]+\.[^\s@<>,;]+$/;

/** The people of a line of an email: chosen from the people of the record and all others by name, or typed as an address. */
export function Recipients({
  label,
  people,
  record,
  beside,
  isFocused = false,
  onPeople,
}: {
  label: string;
  people: readonly Person[];
  /** People of this record come first, as `deal:7`. */
  record: string | undefined;
  /** Addresses of all lines: those who usually get such emails, too, are offered. */
  beside: readonly string[];
  isFocused?: boolean;
  onPeople: (people: Person[]) => void;
}) {
  const [text, setText] = useState('');
  const [isOpen, setIsOpen] = useState(false);
  const [fault, setFault] = useState(false);
  const asked = useDeferredValue(text.trim());
  const found = useRecipients(asked, record, beside, isOpen && (asked.length > 1 || record !== undefined || beside.length > 0));
  const offered = isOpen ? (found.data?.people ?? []).filter(({ address }) => !beside.includes(address)) : [];
  const add = (list: readonly Person[]): void => {
    const fresh = list.filter(({ address }) => !people.some((it) => it.address === address));
    onPeople([...people, ...fresh]);
    setText('');
    setFault(false);
  };
  const typed = (): boolean => {
    const parts = text.split(/[\s,;<>]+/).filter((part) => part.includes('@'));
    const addresses = parts.map((part) => part.toLowerCase());
    if (addresses.length === 0 || !addresses.every((address) => ADDRESS.test(address))) return false;
    add(addresses.map((address) => ({ name: '', address })));
    return true;
  };
  return (
    <Command shouldFilter={false} label={label} className="relative flex items-baseline gap-2 border-b border-line py-1">
      <span className="w-14 shrink-0 text-sm text-muted">{label}</span>
      <div className="flex min-w-0 grow flex-wrap items-center gap-1">
        {people.map((person) => (
          <span
            key={person.address}
            className="inline-flex max-w-full items-center gap-1 rounded border border-line bg-paper pl-1.5 text-sm"
          >
            <span className="truncate" title={person.address}>
              {person.name || <Address>{person.address}</Address>}
            </span>
            <button
              type="button"
              aria-label={words.remove(person.address)}
              className="flex size-6 items-center justify-center text-muted hover:text-brick"
              onClick={() => onPeople(people.filter((it) => it !== person))}
            >
              <X size={12} />
            </button>
          </span>
        ))}
        <Command.Input
          aria-label={label}
          autoFocus={isFocused}
          placeholder={people.length === 0 ? words.nameOrAddress : ''}
          value={text}
          onValueChange={(next) => {
            setText(next);
            setIsOpen(true);
          }}
          onFocus={() => setIsOpen(true)}
          onBlur={() => {
            // A click on what is offered comes first.
            window.setTimeout(() => setIsOpen(false), 150);
            if (text.trim() !== '' && !typed()) setFault(true);
          }}
          onKeyDown={(event) => {
            if (event.key === 'Backspace' && text === '' && people.length > 0) onPeople(people.slice(0, -1));
            if (event.key === 'Escape' && isOpen) {
              event.stopPropagation();
              setIsOpen(false);
            }
            const isTyped = event.key === ',' || event.key === ';' || (event.key === 'Enter' && offered.length === 0);
            if (isTyped && text.trim() !== '') {
              event.preventDefault();
              if (!typed()) setFault(true);
            }
          }}
          className="min-h-7 min-w-12 flex-1 bg-transparent outline-none placeholder:text-muted"
        />
      </div>
      {fault && (
        <p role="alert" className="absolute top-full right-0 z-10 rounded border border-brick/40 bg-raised px-2 py-0.5 text-sm text-brick">
          {words.noSuchAddress}
        </p>
      )}
      <Command.List
        label={words.addAPerson(label)}
        className="absolute top-full right-0 left-16 z-20 max-h-56 max-w-96 overflow-y-auto rounded border border-line bg-raised shadow-xl empty:hidden"
        hidden={offered.length === 0}
      >
        {offered.map((person) => (
          <Offered key={person.address} person={person} onChoose={() => add([{ name: person.name, address: person.address }])} />
        ))}
      </Command.List>
    </Command>
  );
}

function Offered({ person, onChoose }: { person: RecipientFound; onChoose: () => void }) {
  return (
    <Command.Item value={person.address} onSelect={onChoose} className="cursor-pointer px-2 py-1 data-[selected=true]:bg-sunk">
      <span className="flex gap-2">
        <span className="min-w-0 grow truncate">{person.name || person.address}</span>
        <span className="truncate text-sm text-muted">{person.hint}</span>
      </span>
      {person.name && <Address className="block truncate text-sm text-muted">{person.address}</Address>}
    </Command.Item>
  );
}
