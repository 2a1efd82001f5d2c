import type { Rulebook } from '@fulvet/core';
import { useDraft } from '../queries';
import { useKeepDraft } from '../useKeepDraft';
import type { Draft } from '../queries';
import { useSentences as words } from './words';

/** The draft behind a step's sentences. What is changed in them goes into it, so that nothing takes effect by it. */
export function useSentences(isAdmin: boolean): {
  draft: Draft | undefined;
  /** Nothing can be changed: not by this member, or not now. */
  fixed: boolean;
  put: (before: Rulebook, after: Rulebook) => void;
  error: Error | null;
} {
  const { data: draft, error } = useDraft(isAdmin);
  const keep = useKeepDraft();
  return {
    draft,
    fixed: !isAdmin || !draft || keep.isPending,
    put: (_, after) => keep.mutate({ document: after, revision: draft?.revision ?? 0, said: words.changed }),
    error: error ?? keep.error,
  };
}
