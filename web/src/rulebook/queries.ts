import type { DraftState, Finding, KeptEntryRow, KeptListRow, Pilot, RuleCount, RuleUse } from '@fulvet/contract';
import type { RuleStop, Rulebook } from '@fulvet/core';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { api, queryOf } from '../api/client';
import { useNotice } from '../parts/Notices';

export type Draft = Omit<DraftState, 'document'> & { document: Rulebook };

export const useDraft = (enabled = true) =>
  useQuery({ queryKey: ['draft'], queryFn: ({ signal }) => api<Draft>('GET', '/rulebook/draft', undefined, signal), enabled });

/** Keeps an edited rulebook as the draft; what stood before can be had back. */
export function useKeepDraft() {
  const client = useQueryClient();
  const notice = useNotice();
  return useMutation({
    mutationFn: ({ document, revision }: { document: unknown; revision: number; said?: string; before?: unknown }) =>
      api<Draft>('PUT', `/rulebook/draft?revision=${revision}`, document),
    onSuccess: (kept, { said, before }) => {
      client.setQueryData(['draft'], kept);
      for (const key of ['draft-check', 'kept-lists', 'trials']) void client.invalidateQueries({ queryKey: [key] });
      if (!said) return;
      const undo = async (): Promise<void> => {
        client.setQueryData(['draft'], await api<Draft>('PUT', `/rulebook/draft?revision=${kept.revision}`, before));
        await client.invalidateQueries({ queryKey: ['draft-check'] });
      };
      notice(`${said} It is in the draft; nothing has taken effect.`, before === undefined ? undefined : { label: 'Undo', run: undo });
    },
  });
}

export const useFindings = (revision: number | undefined) =>
  useQuery({
    queryKey: ['draft-check', revision],
    queryFn: ({ signal }) => api<{ findings: Finding[] }>('GET', '/rulebook/draft/check', undefined, signal),
    enabled: revision !== undefined,
    placeholderData: keepPreviousData,
  });

export const usePilot = () =>
  useQuery({ queryKey: ['pilot'], queryFn: ({ signal }) => api<{ pilot: Pilot | null }>('GET', '/rulebook/pilot', undefined, signal) });

export const useRuleUse = () =>
  useQuery({ queryKey: ['rule-use'], queryFn: ({ signal }) => api<{ rules: RuleUse[] }>('GET', '/rules/use', undefined, signal) });

/** What a rule would take of past mail; follows while it is edited, and while older mail is still being read. */
export const useRuleCount = (stop: RuleStop, rule: object, enabled: boolean) =>
  useQuery({
    queryKey: ['rule-count', stop, rule],
    queryFn: ({ signal }) => api<RuleCount>('POST', '/rules/count', { stop, rule, partly: true }, signal),
    enabled,
    refetchInterval: ({ state }) => (state.data && state.data.read < state.data.total ? COUNT_ON_MS : false),
    placeholderData: keepPreviousData,
    retry: false,
  });

export const useKeptLists = (enabled = true) =>
  useQuery({
    queryKey: ['kept-lists'],
    queryFn: ({ signal }) => api<{ lists: KeptListRow[] }>('GET', '/kept-lists', undefined, signal),
    enabled,
  });

export const useKeptEntries = (list: string, text: string) =>
  useQuery({
    queryKey: ['kept-lists', list, text],
    queryFn: ({ signal }) =>
      api<{ entries: KeptEntryRow[]; total: number }>('GET', `/kept-lists/${list}/entries${queryOf({ text })}`, undefined, signal),
    placeholderData: keepPreviousData,
  });

const COUNT_ON_MS = 1500;
