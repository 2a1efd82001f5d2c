import { lazy, Suspense, useState } from 'react';
import { Button } from '../parts/basics';
import { offerTimes as timeWords } from './booking/words';
import { chooseDocuments as documentWords } from './documents/words';
import type { Insert } from './templates/useInsert';
import { insertText as textWords } from './templates/words';
import type { Draft } from './useDraft';

const InsertText = lazy(() => import('./templates/InsertText'));
const ChooseDocuments = lazy(() => import('./documents/ChooseDocuments'));
const OfferTimes = lazy(() => import('./booking/OfferTimes'));
const KeepAsTemplate = lazy(() => import('./templates/KeepAsTemplate'));

/** Puts kept texts and documents into the email, or keeps it as a text. */
export function KeptTexts({ draft, texts }: { draft: Draft; texts: Insert }) {
  const [open, setOpen] = useState<'insert' | 'documents' | 'times' | 'keep' | null>(null);
  return (
    <>
      <Button kind="quiet" className="min-h-7!" onClick={() => setOpen('insert')}>
        {textWords.insertText}
      </Button>
      <Button kind="quiet" className="min-h-7!" onClick={() => setOpen('documents')}>
        {documentWords.documents}
      </Button>
      <Button kind="quiet" className="min-h-7!" onClick={() => setOpen('times')}>
        {timeWords.offer}
      </Button>
      <Button kind="quiet" className="min-h-7!" onClick={() => setOpen('keep')}>
        {textWords.keepAsTemplate}
      </Button>
      <Suspense>
        {open === 'insert' && (
          <InsertText
            outgoingId={draft.stored.id}
            onClose={() => setOpen(null)}
            onChoose={(template) => {
              setOpen(null);
              void texts.insert(template);
            }}
          />
        )}
        {open === 'documents' && <ChooseDocuments onClose={() => setOpen(null)} onAdd={texts.addDocuments} />}
        {open === 'times' && (
          <OfferTimes record={draft.content.filing.records[0] ?? null} onInsert={texts.insertLinks} onClose={() => setOpen(null)} />
        )}
        {open === 'keep' && <KeepAsTemplate draft={draft} onClose={() => setOpen(null)} />}
      </Suspense>
    </>
  );
}
