import type { TemplateRow, User } from '@fulvet/contract';
import { lazy, Suspense, useDeferredValue, useState } from 'react';
import { Button, Empty, Page, TextInput, Trouble, Waiting } from '../../parts/basics';
import { clsx } from '../../parts/clsx';
import { useAddressBar } from '../../parts/useAddressBar';
import { common } from '../../parts/words';
import { useTemplate, useTemplateFigures, useTemplates } from './queries';
import { kinds, scopes, states, templatesPage as words } from './words';

const TemplateEditor = lazy(() => import('./TemplateEditor'));

/** Texts that are put into emails: the list at the left, the chosen one at the right. */
export default function TemplatesPage({ user }: { user: User }) {
  const [params, set] = useAddressBar();
  const [text, setText] = useState('');
  const found = useTemplates(useDeferredValue(text.trim()));
  const chosen = params.get('template');
  const id = chosen !== null && /^\d+$/.test(chosen) ? Number(chosen) : null;
  const isNew = chosen === 'new';
  const list = found.data?.templates ?? [];
  return (
    <Page
      title={words.templates}
      purpose={words.textsThatYouPutInto}
      wide
      aside={
        <Button kind="main" onClick={() => set({ template: 'new' })}>
          {words.newOne}
        </Button>
      }
    >
      <Trouble error={found.error} />
      <div className="grid gap-x-10 gap-y-6 lg:grid-cols-[18rem_minmax(0,1fr)]">
        <section aria-label={words.list} className={clsx(chosen !== null && 'max-lg:hidden')}>
          <TextInput aria-label={words.find} placeholder={words.find} value={text} onChange={(event) => setText(event.target.value)} />
          {list.length > 0 ? (
            <Folders list={list} chosen={id} onChoose={(template) => set({ template: String(template) })} />
          ) : (
            found.data && text !== '' && <p className="mt-2 text-muted">{words.nothingFound}</p>
          )}
        </section>
        <Suspense fallback={<Waiting what={common.loading} />}>
          {chosen !== null && (
            <Button kind="quiet" className="justify-self-start lg:hidden" onClick={() => set({ template: '' })}>
              {words.allTemplates}
            </Button>
          )}
          {isNew ? (
            <TemplateEditor key="new" user={user} template={null} figures={null} onMade={(made) => set({ template: String(made) })} />
          ) : id === null ? (
            found.data && list.length === 0 && text === '' ? (
              <Empty title={words.noneYet}>{words.keepOne}</Empty>
            ) : (
              <p className="text-muted max-lg:hidden">{words.choose}</p>
            )
          ) : (
            <Chosen id={id} user={user} onClose={(template) => set({ template })} />
          )}
        </Suspense>
      </div>
    </Page>
  );
}

function Chosen({ id, user, onClose }: { id: number; user: User; onClose: (template: string) => void }) {
  const template = useTemplate(id);
  const figures = useTemplateFigures().data?.figures.find(({ templateId }) => templateId === id) ?? null;
  if (template.isError) return <Trouble error={template.error} />;
  if (!template.data) return <Waiting what={common.loading} />;
  return (
    <TemplateEditor
      key={`${id} ${template.data.revision}`}
      user={user}
      template={template.data}
      figures={figures}
      onMade={(made) => onClose(String(made))}
      onGone={() => onClose('')}
    />
  );
}

function Folders({ list, chosen, onChoose }: { list: readonly TemplateRow[]; chosen: number | null; onChoose: (id: number) => void }) {
  const folders = [...new Set(list.map(({ folder }) => folder))].sort((first, second) => first.localeCompare(second));
  return folders.map((folder) => (
    <div key={folder} className="mt-3">
      {folders.length > 1 && <h2 className="mb-0.5 text-sm font-medium text-muted">{folder || words.noFolder}</h2>}
      <ul className="divide-y divide-line border-y border-line">
        {list
          .filter((item) => item.folder === folder)
          .map((item) => (
            <li key={item.id}>
              <button
                type="button"
                aria-current={item.id === chosen}
                className={clsx('block w-full px-2 py-1.5 text-left hover:bg-sunk', item.id === chosen && 'bg-raised')}
                onClick={() => onChoose(item.id)}
              >
                <span className="block truncate font-medium">{item.name}</span>
                <span className="block truncate text-sm text-muted">
                  {[
                    kinds[item.kind],
                    item.shortcut && `;${item.shortcut}`,
                    item.language,
                    item.scope === 'team' ? (item.team?.name ?? '') : item.scope === 'all' ? scopes.all : '',
                    item.state === 'published' ? '' : states[item.state],
                  ]
                    .filter(Boolean)
                    .join(' · ')}
                </span>
              </button>
            </li>
          ))}
      </ul>
    </div>
  ));
}
