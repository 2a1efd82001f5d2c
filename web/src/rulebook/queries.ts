import type { DraftState } from '@fulvet/contract';
import type { RuleStop, Rulebook } from '@fulvet/core';
import { keepPreviousData, useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { call } from '../api/call';
import { useNotice } from '../parts/Notices';
import { useUndo } from '../parts/useUndo';

export type Draft = Omit<DraftState, 'document'> & { document: Rulebook };

export const useDraft = (enabled = true) =>
  useQuery({ queryKey: ['draft'], queryFn: async ({ signal }) => (await call('getDraft', {}, signal)) as Draft, enabled });

/** Keeps an edited rulebook as the draft; what stood before can be had back. */
export function useKeepDraft() {
  const client = useQueryClient();
  const notice = useNotice();
  const undo = useUndo();
  return useMutation({
    mutationFn: ({ document, revision }: { document: unknown; revision: number; said?: string }) =>
      call('putDraft', { revision, body: document }),
    onSuccess: (kept, { said }) => {
      client.setQueryData(['draft'], kept);
      for (const key of ['draft-check', 'address-lists', 'trials']) void client.invalidateQueries({ queryKey: [key] });
      if (said) notice(`${said} It is in the draft; nothing has taken effect.`, undo(kept.undo));
    },
  });
}

export const useFindings = (revision: number | undefined) =>
  useQuery({
    queryKey: ['draft-check', revision],
    queryFn: ({ signal }) => call('checkDraft', {}, signal),
    enabled: revision !== undefined,
    placeholderData: keepPreviousData,
  });

export const usePilot = () => useQuery({ queryKey: ['pilot'], queryFn: ({ signal }) => call('getPilot', {}, signal) });

export const useRuleUse = (enabled = true) =>
  useQuery({ queryKey: ['rule-use'], queryFn: ({ signal }) => call('useOfRules', {}, signal), enabled });

/** What a rule would take of past mail; follows while it is edited, and while older mail is still being read. */
export const useRuleCount = (stop: RuleStop, rule: object, enabled: boolean) =>
  useQuery({
    queryKey: ['rule-count', stop, rule],
    queryFn: ({ signal }) => call('countRule', { body: { stop, rule, partly: true } }, signal),
    enabled,
    refetchInterval: ({ state }) => (state.data && state.data.read < state.data.total ? COUNT_ON_MS : false),
    placeholderData: keepPreviousData,
    retry: false,
  });

/** What a rule would change of the newest past emails that it is about; follows while it is edited. @param took how many it was found to take */
export const useRuleChanges = (stop: RuleStop, rule: object, took: number, enabled: boolean) =>
  useQuery({
    queryKey: ['rule-changes', stop, rule, took],
    queryFn: ({ signal }) => call('tryRule', { body: { stop, rule } }, signal),
    enabled,
    placeholderData: keepPreviousData,
    retry: false,
  });

export const useAddressLists = (enabled = true) =>
  useQuery({
    queryKey: ['address-lists'],
    queryFn: ({ signal }) => call('listAddressLists', {}, signal),
    enabled,
  });

export const useAddressListEntries = (list: string, text: string) =>
  useQuery({
    queryKey: ['address-lists', list, text],
    queryFn: ({ signal }) => call('listAddressListEntries', { list, text }, signal),
    placeholderData: keepPreviousData,
  });

const COUNT_ON_MS = 1500;
