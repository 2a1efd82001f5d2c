import type { TemplateRow, User } from '@fulvet/contract';
import { lazy, useDeferredValue, useState } from 'react';
import { Trouble, Waiting } from '../../parts/basics';
import { useAddressBar } from '../../parts/useAddressBar';
import { common } from '../../parts/words';
import type { Listed } from '../ListAndChosen';
import { ListAndChosen } from '../ListAndChosen';
import { useTemplate, useTemplateFigures, useTemplates } from './queries';
import { scopes } from '../words';
import { kinds, states, templatesPage as words } from './words';

const TemplateEditor = lazy(() => import('./TemplateEditor'));

/** Texts that are put into emails. */
export default function TemplatesPage({ user }: { user: User }) {
  const [params, set] = useAddressBar();
  const [text, setText] = useState('');
  const found = useTemplates(useDeferredValue(text.trim()));
  const choose = (template: string): void => set({ template });
  return (
    <ListAndChosen
      words={words}
      text={text}
      onText={setText}
      list={found.data?.templates.map(listed)}
      chosen={params.get('template')}
      onChosen={choose}
      error={found.error}
    >
      {(open) =>
        open === 'new' ? (
          <TemplateEditor key="new" user={user} template={null} figures={null} onMade={(made) => choose(String(made))} />
        ) : (
          <Chosen id={open} user={user} onClose={choose} />
        )
      }
    </ListAndChosen>
  );
}

const listed = ({ id, folder, name, kind, shortcut, language, scope, team, state }: TemplateRow): Listed => ({
  id,
  group: folder,
  name,
  note: [
    kinds[kind],
    shortcut && `;${shortcut}`,
    language,
    scope === 'team' ? (team?.name ?? '') : scope === 'all' ? scopes.all : '',
    state === 'published' ? '' : states[state],
  ]
    .filter(Boolean)
    .join(' · '),
});

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
