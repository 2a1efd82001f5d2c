import type { User } from '@fulvet/contract';
import { ChevronDown, PenLine, X } from 'lucide-react';
import { lazy, Suspense } from 'react';
import { Button, Waiting } from '../parts/basics';
import { clsx } from '../parts/clsx';
import { closeDraft, foldTray, openDraft } from './openDrafts';
import type { OpenDrafts } from './openDrafts';
import { useOutgoing } from './queries';
import { composer, tray as words } from './words';

const Composer = lazy(() => import('./Composer').then((module) => ({ default: module.Composer })));

/** The emails that are being written, at the lower edge of every page: what they are about stays in sight above. */
export default function WritingTray({ user, drafts, isBesidePanel }: { user: User; drafts: OpenDrafts; isBesidePanel: boolean }) {
  const { ids, shown } = drafts;
  return (
    <section
      aria-label={words.openEmails}
      className={clsx(
        'fixed right-0 bottom-0 left-0 z-[15] flex flex-col border-t-2 border-spruce bg-raised shadow-[0_-6px_18px_rgb(0_0_0/0.12)] md:left-56',
        isBesidePanel && 'xl:right-[30rem]',
        shown !== null && 'top-0 md:top-auto md:h-[min(30rem,66vh)]',
      )}
    >
      <div className="flex min-h-9 items-center gap-1 border-b border-line px-3">
        <div role="group" aria-label={words.openEmails} className="flex min-w-0 grow gap-1 overflow-x-auto">
          {ids.map((id) => (
            <Tab key={id} id={id} isShown={id === shown} onShow={() => openDraft(user.id, id)} onClose={() => closeDraft(user.id, id)} />
          ))}
        </div>
        {shown !== null && (
          <Button kind="quiet" onClick={() => foldTray(user.id)}>
            <ChevronDown size={16} /> {words.foldTheTray}
          </Button>
        )}
      </div>
      {shown !== null && (
        <Suspense fallback={<Waiting what={composer.openingTheDraft} />}>
          <Composer key={shown} id={shown} onGone={() => closeDraft(user.id, shown)} onBack={(id) => openDraft(user.id, id)} />
        </Suspense>
      )}
    </section>
  );
}

function Tab({ id, isShown, onShow, onClose }: { id: number; isShown: boolean; onShow: () => void; onClose: () => void }) {
  const outgoing = useOutgoing(id);
  const subject = outgoing.data?.subject || composer.newEmail;
  return (
    <span className={clsx('flex max-w-56 min-w-0 items-center rounded', isShown && 'bg-sunk')}>
      <button
        type="button"
        aria-expanded={isShown}
        className="flex min-h-8 min-w-0 items-center gap-1.5 px-2 text-sm font-medium hover:underline"
        onClick={onShow}
      >
        <PenLine size={13} className="shrink-0" />
        <span className="truncate">{subject}</span>
      </button>
      <button
        type="button"
        aria-label={words.close(subject)}
        className="flex size-7 shrink-0 items-center justify-center text-muted hover:text-ink"
        onClick={onClose}
      >
        <X size={13} />
      </button>
    </span>
  );
}
