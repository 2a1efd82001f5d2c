import type { DocumentRow, User } from '@fulvet/contract';
import { useDeferredValue, useState } from 'react';
import { Trouble, Waiting } from '../../parts/basics';
import { useAddressBar } from '../../parts/useAddressBar';
import { common } from '../../parts/words';
import type { Listed } from '../ListAndChosen';
import { ListAndChosen } from '../ListAndChosen';
import { scopes } from '../words';
import { DocumentEditor } from './DocumentEditor';
import { DocumentLinks } from './DocumentLinks';
import { useDocument, useDocuments } from './queries';
import { Versions } from './Versions';
import { documentsPage as words } from './words';

/** Files that are sent along or linked to. */
export default function DocumentsPage({ user }: { user: User }) {
  const [params, set] = useAddressBar();
  const [text, setText] = useState('');
  const found = useDocuments(useDeferredValue(text.trim()));
  const choose = (document: string): void => set({ document });
  return (
    <ListAndChosen
      words={words}
      text={text}
      onText={setText}
      list={found.data?.documents.map(listed)}
      chosen={params.get('document')}
      onChosen={choose}
      error={found.error}
    >
      {(open) =>
        open === 'new' ? (
          <DocumentEditor key="new" user={user} document={null} onMade={(made) => choose(String(made))} onGone={() => choose('')} />
        ) : (
          <Chosen id={open} user={user} onChoose={choose} />
        )
      }
    </ListAndChosen>
  );
}

const listed = ({ id, topic, title, current, isOver, language, scope, team }: DocumentRow): Listed => ({
  id,
  group: topic,
  name: title,
  note: [
    isOver ? words.isOver : current ? words.version(current.number) : words.noVersion,
    language,
    scope === 'team' ? (team?.name ?? '') : scope === 'all' ? scopes.all : '',
  ]
    .filter(Boolean)
    .join(' · '),
});

function Chosen({ id, user, onChoose }: { id: number; user: User; onChoose: (document: string) => void }) {
  const document = useDocument(id);
  if (document.isError) return <Trouble error={document.error} />;
  if (!document.data) return <Waiting what={common.loading} />;
  return (
    <div className="min-w-0 max-w-3xl space-y-6">
      <DocumentEditor
        key={`${id} ${document.data.revision}`}
        user={user}
        document={document.data}
        onMade={(made) => onChoose(String(made))}
        onGone={() => onChoose('')}
      />
      <Versions document={document.data} />
      <DocumentLinks document={document.data} />
    </div>
  );
}
