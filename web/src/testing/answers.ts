import type { EmailRow, Role, User, RuleChanges } from '@fulvet/contract';
import { cautiousRulebook } from '@fulvet/core';
import type { Rulebook } from '@fulvet/core';
import { AT } from './emptyAnswer';
import type { Answers } from './openPage';

export const HEDDA: User = { id: 1, name: 'Hedda Quillmere', email: 'hedda@quillmere.example', role: 'admin' };

/** A small workspace, seen by a member of this role. */
export function workspace(role: Role = 'admin', rulebook: Rulebook = cautiousRulebook(['quillmere.example'])): Answers {
  return {
    getSession: { user: { ...HEDDA, role }, setUp: true, workspace: 'Quillmere', csrf: 'secret', needs: null, provider: null },
    getRulebook: { version: 3, document: rulebook, at: AT, by: HEDDA.name, summary: '' },
    getDraft: { document: rulebook, baseVersion: 3, liveVersion: 3, revision: 0, differences: [], at: null, by: null },
  };
}

/** An email in a list, received from a customer and filed. */
export function emailRow(id: number, subject: string, more: Partial<EmailRow> = {}): EmailRow {
  return {
    id,
    at: AT,
    direction: 'received',
    outcome: 'filed',
    mailClass: 'person',
    visibility: 'everyone',
    conversationId: id,
    mailboxes: [HEDDA.email],
    externalDomains: ['harbour.example'],
    hasProblems: false,
    filings: [],
    content: {
      subject,
      preview: 'please see below',
      from: { role: 'from', address: 'ida@harbour.example', name: 'Ida Brandt', ours: false },
      to: [{ role: 'to', address: HEDDA.email, name: HEDDA.name, ours: true }],
      recipientCount: 1,
      attachmentCount: 0,
    },
    ...more,
  };
}

/** A rule that would change nothing. */
export const NO_RULE_CHANGES: RuleChanges = { tried: 0, changed: 0, moves: [], newlySeen: 0, noLongerSeen: 0, created: 0, examples: [] };
