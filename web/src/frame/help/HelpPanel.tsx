import { useQuery } from '@tanstack/react-query';
import { marked } from 'marked';
import { useState } from 'react';
import { useLocation } from 'react-router';
import { titleAt } from '../pages';
import { Button, TextInput, Trouble, Waiting } from '../../parts/basics';
import { Modal } from '../../parts/Modal';
import type { HelpPart } from './helpText';
import { partsOf, partsWith } from './helpText';
import { common } from '../../parts/words';
import { helpPanel as texts } from './words';

/** Help on the page at hand, and on every other by its name or by any word. */
export default function HelpPanel({ onClose, onKeys }: { onClose: () => void; onKeys: () => void }) {
  const { pathname } = useLocation();
  const [search, setSearch] = useState('');
  const help = useQuery({
    queryKey: ['help'],
    queryFn: async ({ signal }) => {
      const answer = await fetch('/help.md', { signal });
      if (!answer.ok) throw new Error(texts.theHelpCouldNot);
      return partsOf(await answer.text());
    },
    staleTime: Infinity,
  });
  const here = help.data?.find(({ title }) => title === titleAt(pathname));
  const others = help.data?.filter((part) => part !== here) ?? [];
  const found = search.trim() === '' ? null : partsWith(help.data ?? [], search);
  return (
    <Modal open onClose={onClose} title={common.help}>
      <div className="mb-3 flex gap-2">
        <TextInput
          type="search"
          autoFocus
          aria-label={texts.searchTheHelp}
          placeholder={texts.searchTheHelp}
          value={search}
          onChange={(event) => setSearch(event.target.value)}
        />
        <Button onClick={onKeys}>{texts.keys}</Button>
      </div>
      {help.isPending && <Waiting what={texts.loadingTheHelp} />}
      <Trouble error={help.error} />
      {found === null ? (
        <>
          {here && <Part part={here} />}
          <ul aria-label={texts.otherPartsOfThe} className="mt-4 border-t border-line pt-2">
            {others.map((part) => (
              <li key={part.title}>
                <details>
                  <summary className="min-h-7 cursor-pointer py-1 text-spruce">{part.title}</summary>
                  <Text text={part.text} />
                </details>
              </li>
            ))}
          </ul>
        </>
      ) : (
        <div role="status">
          {found.length === 0 && <p className="text-muted">{texts.nothingInTheHelp}</p>}
          {found.map((part) => (
            <Part key={part.title} part={part} />
          ))}
        </div>
      )}
    </Modal>
  );
}

function Part({ part: { title, text } }: { part: HelpPart }) {
  return (
    <section className="mb-4">
      <h3 className="mb-1 text-base font-semibold">{title}</h3>
      <Text text={text} />
    </section>
  );
}

/** Markdown that ships with the application; nothing that a person or a program wrote comes here. */
function Text({ text }: { text: string }) {
  return (
    <div
      className="max-w-prose space-y-2 pb-2 [&_em]:italic [&_strong]:font-semibold"
      dangerouslySetInnerHTML={{ __html: marked.parse(text, { async: false }) }}
    />
  );
}
