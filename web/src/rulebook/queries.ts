import type { DraftState } from '@fulvet/contract';
import type { RuleStep, Rulebook } from '@fulvet/core';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { asked, askedFor, answerKey } from '../api/asked';
import { call } from '../api/call';

export type Draft = Omit<DraftState, 'document'> & { document: Rulebook };

export const useDraft = (enabled = true) =>
  useQuery({ queryKey: answerKey('getDraft'), queryFn: async ({ signal }) => (await call('getDraft', {}, signal)) as Draft, enabled });

export const useFindings = (revision: number | undefined) =>
  useQuery({
    ...askedFor([revision], 'checkDraft'),
    enabled: revision !== undefined,
    placeholderData: keepPreviousData,
  });

export const usePilot = () => useQuery(asked('getPilot'));

export const useRuleUse = (enabled = true) => useQuery({ ...asked('useOfRules'), enabled });

/** What a rule would take of past mail; follows while it is edited, and while older mail is still being read. */
export const useRuleCount = (step: RuleStep, rule: object, enabled: boolean) =>
  useQuery({
    ...asked('countRule', { body: { step, rule, partly: true } }),
    enabled,
    refetchInterval: ({ state }) => (state.data && state.data.read < state.data.total ? COUNT_ON_MS : false),
    placeholderData: keepPreviousData,
    retry: false,
  });

/** What a rule would change of the newest past emails that it is about; follows while it is edited. @param took how many it was found to take */
export const useRuleChanges = (step: RuleStep, rule: object, took: number, enabled: boolean) =>
  useQuery({
    ...askedFor([took], 'tryRule', { body: { step, rule } }),
    enabled,
    placeholderData: keepPreviousData,
    retry: false,
  });

export const useAddressLists = (enabled = true) =>
  useQuery({
    ...asked('listAddressLists'),
    enabled,
  });

export const useAddressListEntries = (list: string, text: string) =>
  useQuery({
    ...asked('listAddressListEntries', { list, text }),
    placeholderData: keepPreviousData,
  });

const COUNT_ON_MS = 1500;
