import type { ReactNode } from 'react';
import { Suspense } from 'react';
import { Button, Empty, Page, TextInput, Trouble, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { common } from '../parts/words';

export interface Listed {
  id: number;
  /** What it stands under; empty: nothing. */
  group: string;
  name: string;
  note: string;
}

interface Words {
  title: string;
  purpose: string;
  newItem: string;
  find: string;
  all: string;
  choose: string;
  noneYet: string;
  howToBegin: string;
  nothingFound: string;
  noGroup: string;
}

/** A page of things that are kept: their list at the left, by groups, the chosen one at the right; on a phone one of the two. */
export function ListAndChosen({
  words,
  text,
  onText,
  list,
  chosen,
  onChosen,
  error,
  children,
}: {
  words: Words;
  /** What the list is narrowed to. */
  text: string;
  onText: (text: string) => void;
  /** Undefined while it comes. */
  list: readonly Listed[] | undefined;
  /** The id of the chosen one as text, or `new`; null: none. */
  chosen: string | null;
  onChosen: (chosen: string) => void;
  error: unknown;
  children: (chosen: number | 'new') => ReactNode;
}) {
  const isNone = list !== undefined && list.length === 0;
  const open = chosen === 'new' ? chosen : chosen !== null && /^\d+$/.test(chosen) ? Number(chosen) : null;
  return (
    <Page
      title={words.title}
      purpose={words.purpose}
      wide
      aside={
        <Button kind="main" onClick={() => onChosen('new')}>
          {words.newItem}
        </Button>
      }
    >
      <Trouble error={error} />
      <div className="grid gap-x-10 gap-y-6 lg:grid-cols-[18rem_minmax(0,1fr)]">
        <section aria-label={words.title} className={clsx(chosen !== null && 'max-lg:hidden')}>
          <TextInput aria-label={words.find} placeholder={words.find} value={text} onChange={(event) => onText(event.target.value)} />
          {isNone
            ? text !== '' && <p className="mt-2 text-muted">{words.nothingFound}</p>
            : list && <Groups list={list} noGroup={words.noGroup} chosen={chosen} onChosen={onChosen} />}
        </section>
        <Suspense fallback={<Waiting what={common.loading} />}>
          {chosen !== null && (
            <Button kind="quiet" className="justify-self-start lg:hidden" onClick={() => onChosen('')}>
              {words.all}
            </Button>
          )}
          {open !== null ? (
            children(open)
          ) : isNone && text === '' ? (
            <Empty title={words.noneYet}>{words.howToBegin}</Empty>
          ) : (
            <p className="text-muted max-lg:hidden">{words.choose}</p>
          )}
        </Suspense>
      </div>
    </Page>
  );
}

function Groups({
  list,
  noGroup,
  chosen,
  onChosen,
}: {
  list: readonly Listed[];
  noGroup: string;
  chosen: string | null;
  onChosen: (chosen: string) => void;
}) {
  const groups = [...new Set(list.map(({ group }) => group))].sort((first, second) => first.localeCompare(second));
  return groups.map((group) => (
    <div key={group} className="mt-3">
      {groups.length > 1 && <h2 className="mb-0.5 text-sm font-medium text-muted">{group || noGroup}</h2>}
      <ul className="divide-y divide-line border-y border-line">
        {list
          .filter((item) => item.group === group)
          .map((item) => (
            <li key={item.id}>
              <button
                type="button"
                aria-current={String(item.id) === chosen}
                className={clsx('block w-full px-2 py-1.5 text-left hover:bg-sunk', String(item.id) === chosen && 'bg-raised')}
                onClick={() => onChosen(String(item.id))}
              >
                <span className="block truncate font-medium">{item.name}</span>
                <span className="block truncate text-sm text-muted">{item.note}</span>
              </button>
            </li>
          ))}
      </ul>
    </div>
  ));
}
