import type { DraftState, RuleCount } from '@fulvet/contract';
import { cautiousRulebook } from '@fulvet/core';
import type { Rulebook } from '@fulvet/core';
import { expect } from '@jest/globals';
import { NO_RULE_CHANGES, workspace } from './answers';
import { AT } from './emptyAnswer';
import type { Answers, OpenPage } from './openPage';

export const rule = (id: string, name: string, more: object = {}) => ({
  id,
  name,
  note: '',
  on: true,
  appliesTo: { mailboxes: [], users: [] },
  when: { all: [{ fact: 'participant', which: 'any', test: { is: 'domain', value: `${id}.example`, exactly: false } }] },
  then: { do: 'leaveToOwner' },
  ...more,
});
export function withRules(...rules: object[]): Rulebook {
  const rulebook = cautiousRulebook(['quillmere.example']);
  return { ...rulebook, takeIn: { ...rulebook.takeIn, rules: rules as never } };
}
/** A server that keeps the draft as it is put. */
export function keepsDraft(rulebook: Rulebook): Answers {
  let state: DraftState = { document: rulebook, baseVersion: 3, liveVersion: 3, revision: 0, differences: [], at: null, by: null };
  const before: unknown[] = [rulebook];
  return {
    ...workspace('admin', rulebook),
    getDraft: () => state,
    putDraft: ({ body, query }) => {
      expect(Number(query.revision)).toBe(state.revision);
      state = {
        ...state,
        document: body,
        revision: state.revision + 1,
        differences: ['Something differs.'],
        by: 'Hedda Quillmere',
        at: AT,
      };
      before.push(body);
      return { ...state, undo: state.revision };
    },
    undo: ({ params }) => {
      state = { ...state, document: before[Number(params.id) - 1], revision: state.revision + 1 };
      return { changed: 1, kept: [] };
    },
    countRule: () => counted(12, 40),
    tryRule: NO_RULE_CHANGES,
  };
}
export const counted = (took: number, of: number, more: Partial<RuleCount> = {}): RuleCount => ({
  took,
  of,
  first: took,
  read: of,
  total: of,
  examples: [],
  ...more,
});
export const rulesPut = (page: OpenPage): { id: string; name: string; on: boolean; when: object; then: object }[] =>
  page.calls('putDraft').at(-1)?.body.takeIn.rules;
