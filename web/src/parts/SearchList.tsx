import { Command } from 'cmdk';
import type { ReactNode } from 'react';
import { clsx } from './clsx';
import { searchList as words } from './words';

export interface SearchChoice {
  key: string;
  content: ReactNode;
  choose: () => void;
}

export interface SearchGroup {
  /** Heading above its choices; absent: none. */
  name?: string;
  choices: readonly SearchChoice[];
}

/**
 * A search field with what it finds below it: arrows move, Enter takes the marked choice. What is found is asked for by the caller, who
 * gets the text as it is typed.
 */
export function SearchList({
  label,
  placeholder,
  listLabel = words.found,
  text,
  onText,
  groups,
  nothing,
  large = false,
}: {
  label: string;
  placeholder: string;
  listLabel?: string;
  text: string;
  onText: (text: string) => void;
  groups: readonly SearchGroup[];
  /** Shown where there are no choices; null: nothing. */
  nothing: ReactNode;
  large?: boolean;
}) {
  const found = groups.some(({ choices }) => choices.length > 0);
  return (
    <Command shouldFilter={false} loop label={label} className="flex min-h-0 flex-col">
      <Command.Input
        autoFocus
        aria-label={label}
        placeholder={placeholder}
        value={text}
        onValueChange={onText}
        className={clsx(
          'w-full placeholder:text-muted',
          large
            ? 'rounded-t-md border-b border-line bg-transparent px-4 py-3 text-lg outline-none'
            : 'min-h-8 rounded border border-line bg-raised px-2 py-1 text-base',
        )}
      />
      <Command.List label={listLabel} className={clsx('min-h-0 overflow-y-auto', large ? 'p-1.5' : 'mt-1 max-h-72')}>
        {groups
          .filter(({ choices }) => choices.length > 0)
          .map((group) => (
            <Command.Group
              key={group.name ?? ''}
              heading={group.name}
              className="**:[[cmdk-group-heading]]:px-2.5 **:[[cmdk-group-heading]]:pt-2 **:[[cmdk-group-heading]]:pb-1 **:[[cmdk-group-heading]]:text-xs **:[[cmdk-group-heading]]:text-muted"
            >
              {group.choices.map(({ key, content, choose }) => (
                <Command.Item
                  key={key}
                  value={key}
                  onSelect={choose}
                  className="min-h-7 cursor-default rounded px-2 py-1 data-[selected=true]:bg-sunk"
                >
                  {content}
                </Command.Item>
              ))}
            </Command.Group>
          ))}
        {!found && nothing !== null && <div className="px-2 py-2 text-sm text-muted">{nothing}</div>}
      </Command.List>
    </Command>
  );
}
