import { RULES, RULE_STEPS, ruleWords } from '@fulvet/core';
import type { CompiledRulebook } from '@fulvet/core';

/** Every default has its words, or this does not compile. */
const RULE_TEXTS: Record<(typeof RULES)[keyof typeof RULES], string> = {
  [RULES.internal]: 'Internal mail stays out',
  [RULES.machineMail]: 'Machine mail stays out',
  [RULES.ownKeepOut]: 'Kept out by the owner of the mailbox',
  [RULES.scope]: 'What comes in',
  [RULES.mailboxTakeIn]: 'What comes in from this mailbox',
  [RULES.person]: 'The person by the address',
  [RULES.accountByPerson]: 'The account of the person',
  [RULES.accountByDomain]: 'The account by the domain',
  [RULES.dealByConversation]: 'Answers follow their conversation',
  [RULES.dealByCode]: 'The deal by its code',
  [RULES.dealByName]: 'The deal by its name in the subject',
  [RULES.onlyOpenDeal]: 'The only open deal of these people',
  [RULES.dealByScore]: 'The deal that is clearly the best',
  [RULES.ownByConversation]: 'Answers follow their conversation',
  [RULES.ownByCode]: 'The record by its number',
  [RULES.ownByAddress]: 'The record to which the address leads',
  [RULES.onlyOpenOwn]: 'The only open record of its kind of these people',
  [RULES.ownByScore]: 'The record of its kind that is clearly the best',
  [RULES.createPeople]: 'What unknown people become',
  [RULES.createAccounts]: 'New accounts from domains',
  [RULES.level]: 'Who sees filed mail',
  [RULES.mailboxOwner]: 'Who sees mail of this mailbox',
  [RULES.filingAddress]: 'Filing by address',
  [RULES.filingFolder]: 'Filing by folder',
  [RULES.pin]: 'A decision by hand',
  [RULES.pinOfConversation]: 'A decision by hand about the conversation',
  [RULES.principal]: 'The principal record, by hand',
  [RULES.seal]: 'The owner’s seal',
  [RULES.sharingChoice]: 'The owner’s word about who sees it',
};

const TEXTS: ReadonlyMap<string, string> = new Map(Object.entries(RULE_TEXTS));

/** Says what a rule is called that a decision names by its id: a default, an entry of what is kept out, or a rule of one's own. */
export function ruleTextOf({ source }: CompiledRulebook): (rule: string | null) => string | null {
  const entries = new Map(source.keepOut.entries.map((entry) => [entry.id, entry]));
  const rules = new Map(RULE_STEPS.flatMap((step) => source[step].rules.map((rule) => [rule.id, rule] as const)));
  return (rule) => {
    if (rule === null) return null;
    const entry = entries.get(rule);
    if (entry) return entry.note ? `Kept out: ${entry.value} (${entry.note})` : `Kept out: ${entry.value}`;
    const known = rules.get(rule);
    return TEXTS.get(rule) ?? (known ? known.name || ruleWords(known).replace(/\.$/, '') : 'A rule that is gone');
  };
}
