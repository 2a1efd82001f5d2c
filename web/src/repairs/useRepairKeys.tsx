import type { Filing } from '@fulvet/contract';
import { useEffect, useState } from 'react';
import type { ReactNode } from 'react';
import { isTyping } from '../parts/isTyping';
import { EachDialog } from './EachDialog';
import { FileDialog } from './FileDialog';
import { SealDialog } from './SealDialog';
import { StartDialog } from './StartDialog';
import { TakeOffDialog } from './TakeOffDialog';

export type RepairVerb = 'file' | 'move' | 'takeOff' | 'seal' | 'start' | 'each';

/** The emails that the verbs are about. */
export interface Subject {
  emails: readonly number[];
  /** Records that they stand under. */
  filings: readonly Filing[];
  /** The reader uses a mailbox that holds them. */
  owned: boolean;
}

const KEYS: Record<string, Exclude<RepairVerb, 'move' | 'each'>> = { f: 'file', t: 'takeOff', s: 'seal', n: 'start' };

/**
 * The verbs of repair for the emails at hand, by single letters and by buttons: the dialog that is open, and a way to open one.
 *
 * @param subject null while nothing can be put right
 */
export function useRepairKeys(subject: Subject | null): { dialog: ReactNode; open: (verb: RepairVerb, from?: Filing) => void } {
  const [verb, setVerb] = useState<{ verb: RepairVerb; from: Filing | null } | null>(null);
  useEffect(() => {
    if (!subject) return;
    const onKey = (event: KeyboardEvent): void => {
      if (isTyping(event.target) || event.ctrlKey || event.metaKey || event.altKey || document.querySelector('[role=dialog]')) return;
      const wanted = KEYS[event.key.toLowerCase()];
      if (!wanted || event.defaultPrevented || (wanted === 'seal' && !subject.owned)) return;
      event.preventDefault();
      setVerb({ verb: wanted, from: null });
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [subject]);
  const close = (): void => setVerb(null);
  const emails = subject?.emails ?? [];
  return {
    open: (next, from) => setVerb({ verb: next, from: from ?? null }),
    dialog:
      subject && verb ? (
        <>
          {(verb.verb === 'file' || verb.verb === 'move') && <FileDialog emails={emails} from={verb.from} onClose={close} />}
          {verb.verb === 'takeOff' && <TakeOffDialog emails={emails} filings={subject.filings} onClose={close} />}
          {verb.verb === 'seal' && <SealDialog emails={emails} onClose={close} />}
          {verb.verb === 'start' && <StartDialog emails={emails} onClose={close} />}
          {verb.verb === 'each' && <EachDialog emails={emails} onClose={close} />}
        </>
      ) : null,
  };
}
