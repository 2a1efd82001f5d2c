import type { Rulebook } from '@fulvet/core';
import { useMutation } from '@tanstack/react-query';
import { api } from '../api/client';
import type { LiveRulebook } from '../api/queries';
import type { Draft } from '../api/ruleQueries';
import { useRefreshAll } from '../api/queries';
import { useNotice } from '../parts/Notices';

/**
 * Saves an edited rulebook as the next version; undo puts the one before in force again. While there is a draft, the edit goes into
 * the draft and takes effect with it.
 */
export function useSaveRulebook(current: LiveRulebook | undefined, draft: Draft | undefined) {
  const refresh = useRefreshAll();
  const notice = useNotice();
  return useMutation({
    mutationFn: async (next: Rulebook): Promise<{ version: number } | null> => {
      if (!draft || draft.revision === 0) return api<LiveRulebook>('PUT', `/rulebook?over=${String(current?.version ?? 0)}`, next);
      await api('PUT', `/rulebook/draft?revision=${draft.revision}`, next);
      return null;
    },
    onSuccess: async (saved) => {
      await refresh();
      if (saved === null) {
        notice('It is in the draft; nothing has taken effect.');
        return;
      }
      const before = current?.document;
      const undo = async (): Promise<void> => {
        await api('PUT', `/rulebook?over=${saved.version}`, before);
        await refresh();
        notice('The rulebook is as it was before.');
      };
      notice(
        `Version ${saved.version} is in force for new mail. Past mail stays as decided.`,
        before ? { label: 'Undo', run: undo } : undefined,
      );
    },
  });
}
