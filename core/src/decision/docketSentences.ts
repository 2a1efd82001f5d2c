import type { PinReach, Step } from '../facts/types';
import { STEP_TITLES } from '../rulebook/stepTitles';
import type { Docket, Evidence, StepEntry } from './types';
import { visibilityWords } from './visibility';

/** One step of a decision in words. */
export interface DocketSentence {
  step: Step;
  title: string;
  verdict: string;
  rule: string | null;
  because: string[];
}

/** What a step decided, as it is called everywhere. */
export const VERDICT_WORDS: Record<StepEntry['verdict'], string> = {
  passed: 'Let through',
  'kept out': 'Kept out',
  'taken in': 'Taken in',
  'left to its owner': 'Left to its owner',
  matched: 'Matched',
  'no match': 'No known person',
  waits: 'Waits for a person to decide',
  created: 'Created what was missing',
  'nothing created': 'Nothing created',
  owner: 'Its owner only',
  record: 'Owners of its records',
  teams: 'Teams',
  everyone: 'Everyone in the workspace',
};

const SCOPES: Record<string, string> = {
  external: 'all mail with external people comes in',
  known: 'only mail with known people comes in',
  answers: 'only answers to filed mail come in',
  byHand: 'mail comes in by hand only',
};

/** Puts a decision into words, for the interface and for people who read exports. */
export function docketSentences(docket: Docket): DocketSentence[] {
  return docket.map((entry) => ({
    step: entry.step,
    title: STEP_TITLES[entry.step],
    verdict: VERDICT_WORDS[entry.verdict],
    rule: entry.rule,
    because: entry.evidence.map(sentence),
  }));
}

function sentence(evidence: Evidence): string {
  switch (evidence.fact) {
    case 'direction':
      return 'No one outside our own domains and addresses takes part.';
    case 'mail class':
      if (evidence.mailClass === 'event') return 'It is an event of a calendar.';
      return `It is machine mail (${evidence.mailClass})${evidence.header ? `: ${evidence.header}${evidence.value ? ` says “${evidence.value}”` : ''}` : ''}.`;
    case 'form':
      return `It came from the form at ${evidence.address}: whoever filled it in is its sender.`;
    case 'own list':
      return `It came through our own list ${evidence.list}, written by an external sender, so it is not a newsletter.`;
    case 'entry':
      return evidence.effect === 'keepOut'
        ? `${evidence.value} is kept out with the whole email.`
        : `${evidence.participant} is ignored, because ${evidence.value} is on the kept-out list.`;
    case 'own keep out':
      return `${evidence.participant} is ignored, because the owner of the mailbox keeps them out.`;
    case 'no one left':
      return evidence.ignored === 1
        ? 'No other external participant is left.'
        : `All ${evidence.ignored} external participants are ignored.`;
    case 'scope':
      return `By policy ${SCOPES[evidence.scope] ?? evidence.scope}${evidence.known.length > 0 ? `; known: ${listed(evidence.known)}` : ''}.`;
    case 'own scope':
      return evidence.scope === 'known'
        ? 'The owner of the mailbox takes in mail with known people only.'
        : 'The owner of the mailbox takes in mail by hand only.';
    case 'not read':
      return 'Reading the email exceeded the limits, so nothing is known of what it says.';
    case 'person':
      return `${evidence.address} is the ${evidence.kind} ${evidence.name}.`;
    case 'account':
      return accountSentence(evidence);
    case 'shared domain':
      return `${evidence.domain} belongs to several accounts, and no participant tells which: ${listed(evidence.candidates.map((candidate) => candidate.name))}.`;
    case 'provider':
      return `${evidence.domain} is a public mail provider and stands for no company.`;
    case 'unknown':
      return `${evidence.address} is not in any record.`;
    case 'deal':
      return dealSentence(evidence);
    case 'new matter':
      return newMatterSentence(evidence);
    case 'deals too young':
      return `Opened more than ${evidence.days} days after the email was sent: ${listed(evidence.candidates.map((candidate) => candidate.name))}.`;
    case 'several codes':
      return `The subject names several deals: ${listed(evidence.candidates.map((candidate) => candidate.name))}.`;
    case 'several customers':
      return `It goes to people of ${evidence.accounts} accounts, which have no deal in common.`;
    case 'own record':
      return ownSentence(evidence);
    case 'open own records':
      return `Several records may be meant, and none is clearly the best: ${listed(evidence.candidates.map((it) => it.name))}.`;
    case 'open deals':
      return `These people have ${evidence.candidates.length} open deals: ${listed(evidence.candidates.map((candidate) => candidate.name))}.`;
    case 'created':
      return `The ${evidence.kind} ${evidence.name} was created from ${evidence.via}${evidence.confidence < 1 ? ` (name guessed, ${Math.round(evidence.confidence * 100)} % sure)` : ''}.`;
    case 'not created':
      return notCreated(evidence.address, evidence.because, evidence.like?.name, evidence.alike);
    case 'rule':
      return ruleSentence(evidence);
    case 'deal scores':
      return scoresSentence(evidence);
    case 'gesture':
      return gestureSentence(evidence);
    case 'pin':
      return pinSentence(evidence);
    case 'own word':
      return wordSentence(evidence);
    case 'level':
      return evidence.because === 'word'
        ? `By that choice it is seen by ${visibilityWords(evidence.level, evidence.teams, evidence.existenceOnly)}.`
        : evidence.because === 'not filed'
          ? 'It is not filed, so no one else sees it.'
          : evidence.because === 'mailbox'
            ? 'Its mailbox is set to be seen by its users only.'
            : evidence.because === 'rule'
              ? `By that rule it is seen by ${visibilityWords(evidence.level, evidence.teams, evidence.existenceOnly)}.`
              : `By policy, filed mail is seen by ${visibilityWords(evidence.level, evidence.teams, evidence.existenceOnly)}.`;
  }
}

function ruleSentence({ name, rule, hits }: Extract<Evidence, { fact: 'rule' }>): string {
  const found = hits.map(({ fact, value, participant }) => (participant ? `${participant} (${value})` : `${fact} “${value}”`));
  return `The rule “${name || rule}” applies${found.length > 0 ? `: ${listed(found)}` : ''}.`;
}

function scoresSentence({ scores, threshold, margin }: Extract<Evidence, { fact: 'deal scores' }>): string {
  const [best, next] = scores;
  if (!best) return 'No open deal was found.';
  const parts = [
    best.people === 0 && best.of > 0
      ? 'it belongs to the account of the people who take part, and has no people of its own'
      : `${best.people} of its ${best.of} people ${best.people === 1 ? 'takes' : 'take'} part`,
    ...(best.owner ? ['its owner has the email'] : []),
    ...(best.words.length > 0 ? [`the subject says ${best.words.map((word) => `“${word}”`).join(', ')}`] : []),
    best.days === null
      ? 'nothing was filed there yet'
      : `last filed there ${best.days === 0 ? 'the same day' : `${best.days === 1 ? 'a day' : `${best.days} days`} before`}`,
  ];
  return `Deal ${best.name}: ${parts.join(', ')}: ${best.score.toFixed(2)}; next best ${next ? `${next.name} ${next.score.toFixed(2)}` : 'none'}. Needed: ${threshold.toFixed(2)}, and ${margin.toFixed(2)} ahead.`;
}

function gestureSentence(evidence: Extract<Evidence, { fact: 'gesture' }>): string {
  const who = evidence.by ?? (evidence.trusted ? 'A teammate' : 'Someone who is not on the team');
  if (evidence.via === 'folder') {
    const meaning = evidence.target === 'rules' ? 'file this by the rules' : `the ${evidence.target ?? 'record'} ${evidence.record}`;
    return `${who} moved it to the folder ${evidence.detail}, which stands for ${meaning}.`;
  }
  if (evidence.target === null) return `${who} sent it to ${evidence.detail}, a filing address that no record has.`;
  const used = `${who} sent it to ${evidence.detail}, the filing address of the ${evidence.target} ${evidence.record}`;
  return evidence.trusted ? `${used}.` : `${used}; only a teammate’s word files by it.`;
}

const REACHES: Record<PinReach, string> = {
  email: 'this email',
  onward: 'this and later emails of the conversation',
  soFar: 'the conversation up to then',
  conversation: 'the conversation',
};

const dayOf = (at: number): string => new Date(at).toISOString().slice(0, 10);

function pinSentence({ does, kind, record, reach, by, at }: Extract<Evidence, { fact: 'pin' }>): string {
  const when = `on ${dayOf(at)}`;
  if (does === 'seal') return `${by} sealed ${REACHES[reach]} ${when}.`;
  if (does === 'settle') return `${by} said ${when} that ${REACHES[reach]} stays as it is.`;
  const under = kind === null ? 'every record' : record === null ? `every ${kind}` : `the ${kind} ${record}`;
  if (does === 'principal') return `${by} made ${under} the principal record of ${REACHES[reach]} ${when}.`;
  return does === 'file'
    ? `${by} filed ${REACHES[reach]} under ${under} ${when}.`
    : `${by} removed ${REACHES[reach]} from ${under} ${when}.`;
}

function wordSentence({ does, scope, value, by, at }: Extract<Evidence, { fact: 'own word' }>): string {
  const what = scope === 'email' ? 'this email' : scope === 'conversation' ? 'the conversation' : `mail with ${value}`;
  const when = `on ${dayOf(at)}`;
  return does === 'seal' ? `${by} sealed ${what} ${when}.` : `${by}, who has it in a mailbox, chose ${when} who sees ${what}.`;
}

function dealSentence(evidence: Extract<Evidence, { fact: 'deal' }>): string {
  return `${howFound(evidence)}${datesSentence(evidence)}`;
}

function ownSentence({ by, name, noun, via }: Extract<Evidence, { fact: 'own record' }>): string {
  switch (by) {
    case 'conversation':
      return `Earlier emails of this conversation, with some of these people, are filed under the ${noun} ${name}.`;
    case 'code':
      return `The subject names ${via}, the number of the ${noun} ${name}.`;
    case 'text':
      return `What the sender wrote names ${via}, the number of the ${noun} ${name}.`;
    case 'address':
      return `${via} leads to the ${noun} ${name}.`;
    case 'only open':
      return `${name} is the only open ${noun} of these people.`;
    case 'score':
      return `${name} is clearly the best of their open records of its kind: ${via}.`;
  }
}

/** What has to be said of the dates of a deal that was not open when the email was sent. */
function datesSentence({ closedAt, openedAt }: Extract<Evidence, { fact: 'deal' }>): string {
  if (closedAt !== undefined) return ` It was closed on ${dayOf(closedAt)}, before this email.`;
  return openedAt === undefined ? '' : ` It was opened on ${dayOf(openedAt)}, after this email.`;
}

function howFound(evidence: Extract<Evidence, { fact: 'deal' }>): string {
  if (evidence.by === 'code') return `It names ${evidence.via}, the code of the deal ${evidence.name}.`;
  if (evidence.by === 'text') return `What the sender wrote names the deal ${evidence.name}.`;
  if (evidence.by === 'name') return `The subject names the deal ${evidence.name}.`;
  if (evidence.by === 'conversation')
    return `Earlier emails of this conversation, with some of these people, are filed under the deal ${evidence.name}.`;
  const only = evidence.openedAt === undefined ? 'that was open at that time' : 'that may be meant';
  if (evidence.by === 'account') return `${evidence.name} is the only deal of the account ${only}, and names no one.`;
  if (evidence.by === 'score') return `${evidence.name} is clearly the best of them.`;
  if (evidence.via === 'in common')
    return `${evidence.name} is the only deal ${only}, of those that the accounts of these people have in common.`;
  return `${evidence.name} is the only deal of these people ${only}.`;
}

function notCreated(address: string, because: string, like: string | undefined, alike = 1): string {
  switch (because) {
    case 'role address':
      return `${address} is the address of a function, not of a person.`;
    case 'machine mail':
      return `${address} is a machine sender.`;
    case 'rule':
      return `${address}: that rule creates no one.`;
    case 'asks':
      return `${address}: that rule asks a person first.${like ? ` It writes under the name of ${like}.` : ''}`;
    case 'team name':
      return `${address} is at a public mail provider, under the name of a colleague.`;
    case 'known name':
      return `${address} writes under the name of ${like ?? 'a known person'}${alike > 1 ? `, which ${alike} known people have,` : ''} and may be their second address: no record is created before someone confirms.`;
    case 'on record':
      return `${address} is already in a record: an earlier rulebook created another kind of record from this email.`;
    case 'no answer':
      return `${address}: has not answered us in this conversation yet, which is required first.`;
    case 'too many people':
      return `${address}: the email has too many external participants to create records.`;
    case 'misspelled':
      return `${address}: the domain is one letter apart from a domain of ${like ?? 'an account'}, and no one there has answered us. It may be misspelled: no record is created.`;
    case 'undeliverable':
      return `${address}: a delivery report says that this address does not exist.`;
    case 'too few emails':
      return `${address}: there are too few emails with them yet.`;
    case 'not written to':
      return `${address}: we did not write to them in this email, which is required first.`;
    default:
      return `${address}: the default creates no one.`;
  }
}

function listed(items: readonly string[]): string {
  if (items.length <= 5) return items.join(', ');
  return `${items.slice(0, 5).join(', ')} and ${items.length - 5} more`;
}

function newMatterSentence({ name, because = 'closed', days = 0 }: Extract<Evidence, { fact: 'new matter' }>): string {
  const stood = `The conversation was filed under the deal ${name}`;
  switch (because) {
    case 'closed':
      return `${stood}, which was closed before, and the subject is another one now: it is taken for a new matter.`;
    case 'rested':
      return `${stood} and had rested for ${days} days, and the subject is another one now: it is taken for a new matter.`;
    case 'names others':
      return `${stood}, and the subject is another one now that names other deals: it is taken for a new matter.`;
    case 'text names another':
      return `${stood}, and what the sender wrote names another deal of these people: it is taken for a new matter.`;
    case 'others':
      return `Emails of this conversation are filed under the deal ${name}, and no one who takes part in this email, nor their account, was in those.`;
    case 'turned before':
      return `${stood}, and turned to another matter under this subject.`;
  }
}

function accountSentence({ by, name, via }: Extract<Evidence, { fact: 'account' }>): string {
  switch (by) {
    case 'person':
      return `${name} is the account of ${via}.`;
    case 'domain':
      return `${via} belongs to the account ${name}.`;
    case 'colleagues':
      return `Every known person at ${via} is with the account ${name}, which has no domain of its own.`;
    case 'name':
      return `${via} has the name of the account ${name}, which has no domain of its own.`;
  }
}
