import type { DraftState } from '@fulvet/contract';
import type { Rulebook, RuleStep } from '@fulvet/core';
import { call } from '../api/call';

/** Appends a rule to the draft of the rulebook; nothing takes effect by it. @returns the draft then */
export async function addToDraft(step: RuleStep, rule: object): Promise<DraftState> {
  const draft = await call('getDraft');
  const document = structuredClone(draft.document) as Rulebook;
  const rules = document[step].rules as object[];
  rules.push({ id: `rule-${crypto.randomUUID().slice(0, 8)}`, on: true, appliesTo: { mailboxes: [], users: [], teams: [] }, ...rule });
  return call('putDraft', { revision: draft.revision, body: document });
}
