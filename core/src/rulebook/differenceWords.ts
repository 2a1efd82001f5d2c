import { STEP_TITLES } from './stepTitles';
import type { Action, Rule, RuleStep } from './rule';
import { RULE_STEPS } from './rule';
import type { Rulebook } from './schema';
import { AFTER_WORDS, ruleWords, plain } from './ruleWords';
import type { ListNames } from './ruleWords';

/** What one rulebook does otherwise than another, in sentences. */
export function differenceWords(before: Rulebook, after: Rulebook, lists: ListNames = new Map()): string[] {
  const said: string[] = [];
  for (const step of RULE_STEPS) {
    const was = before[step];
    const is = after[step];
    const known = new Map<string, Rule<Action<RuleStep>>>(was.rules.map((rule) => [rule.id, rule]));
    const kept = new Set<string>(is.rules.map((rule) => rule.id));
    for (const rule of was.rules) if (!kept.has(rule.id)) said.push(`${STEP_TITLES[step]}: no longer “${ruleWords(rule, lists)}”`);
    for (const rule of is.rules) {
      const old = known.get(rule.id);
      if (!old) said.push(`${STEP_TITLES[step]}: new ${rule.on ? 'rule' : 'rule, switched off,'} “${ruleWords(rule, lists)}”`);
      else if (old.on !== rule.on) said.push(`${STEP_TITLES[step]}: switched ${rule.on ? 'on' : 'off'} “${ruleWords(rule, lists)}”`);
      else if (JSON.stringify([old.when, old.then, old.appliesTo]) !== JSON.stringify([rule.when, rule.then, rule.appliesTo]))
        said.push(`${STEP_TITLES[step]}: “${ruleWords(old, lists)}” becomes “${ruleWords(rule, lists)}”`);
    }
    const orderWas = was.rules.filter((rule) => kept.has(rule.id)).map((rule) => rule.id);
    const orderIs = is.rules.filter((rule) => known.has(rule.id)).map((rule) => rule.id);
    if (orderWas.join() !== orderIs.join()) said.push(`${STEP_TITLES[step]}: its rules stand in another order`);
    said.push(...settingWords(STEP_TITLES[step], was, is));
  }
  said.push(...settingWords('Who we are', before.us, after.us), ...settingWords('Owners of mailboxes', before.personal, after.personal));
  return said;
}

/** What a setting says, by step and name, as the part of a sentence that follows the step’s name. */
const SETTING_WORDS: Record<string, (value: unknown) => string> = {
  'Keep out.internal': (value) => `internal mail ${value === true ? 'stays out' : 'comes in'}`,
  'Take in.scope': (value) => SCOPE_WORDS[String(value)] ?? plain(value),
  'Match.account': (value) => ACCOUNT_WORDS[String(value)] ?? plain(value),
  'Match.deal': (value) => DEAL_WORDS[String(value)] ?? plain(value),
  'Match.threshold': (value) => `a deal needs a score of ${plain(value)}`,
  'Match.margin': (value) => `a deal has to be ${plain(value)} ahead of the next`,
  'Match.leadDays': (value) => `emails up to ${plain(value)} days before a deal was opened may be filed under it`,
  'Match.own': (value) => {
    const said = Object.entries(value as Record<string, string>).map(([key, how]) => `${key.replace(/_/g, ' ')} ${OWN_WORDS[how] ?? how}`);
    return said.length > 0
      ? `records of your own kinds: ${said.join(', ')}`
      : 'records of your own kinds by number, conversation and address';
  },
  'Create.mostPeople': (value) => `no one is created from an email with more than ${plain(value)} external participants`,
  'Create.people': (value) => (value === 'nothing' ? 'unknown people become nothing' : `unknown people become a ${plain(value)}`),
  'Create.after': (value) => `people are created ${AFTER_WORDS[value as keyof typeof AFTER_WORDS] ?? plain(value)}`,
  'Create.accounts': (value) => (value === true ? 'with the account from the domain' : 'without a new account'),
  'Create.emails': (value) => `so many emails are needed: ${plain(value)}`,
  'Create.owner': (value) =>
    `owned by ${value === 'mailbox' ? 'whoever has the email' : value === 'account' ? 'the account’s owner' : plain(value)}`,
  'Share.level': (value) =>
    `filed mail is seen by ${value === 'everyone' ? 'everyone' : value === 'record' ? 'those who own its records' : 'its owner only'}`,
  'Share.existenceOnly': (value) => (value === true ? 'others see only that it exists' : 'others see what it says'),
  'Owners of mailboxes.share': (value) => (value === 'locked' ? 'may not keep them private' : 'may keep them private'),
  'Owners of mailboxes.takeIn': (value) => (value === 'locked' ? 'may not take in less' : 'may take in less'),
  'Who we are.providers': (value) => {
    const { added, removed } = value as { added: string[]; removed: string[] };
    const words = [
      ...(added.length > 0 ? [`${added.join(', ')} counted as public mail providers`] : []),
      ...(removed.length > 0 ? [`${removed.join(', ')} not`] : []),
    ];
    return words.length > 0 ? words.join(', ') : 'public mail providers as on the shipped list';
  },
  'Who we are.tagsTellApart': (value) => `a +tag in an address ${value === true ? 'tells people apart' : 'does not make another person'}`,
};
const SCOPE_WORDS: Record<string, string> = {
  external: 'all mail with external people comes in',
  known: 'only mail with known people comes in',
  answers: 'only answers to filed mail come in',
  byHand: 'mail comes in by hand only',
};
const ACCOUNT_WORDS: Record<string, string> = {
  personOrDomain: 'under the person’s account, else the one that owns the domain',
  person: 'under the person’s account only',
  never: 'under no account',
};
const DEAL_WORDS: Record<string, string> = {
  certain: 'under a deal when it is certain',
  scored: 'under the deal that fits best',
  never: 'never under a deal',
};
const OWN_WORDS: Record<string, string> = {
  code: 'by number, conversation and address',
  onlyOpen: 'also the only open one',
  scored: 'also the one that fits best',
  never: 'by hand only',
};
const LIST_WORDS: Record<string, string> = {
  entries: 'domains and addresses that are kept out',
  machineMail: 'kinds of machine mail that stay out',
  ownDomains: 'own domains',
  sharedAddresses: 'shared addresses',
  formAddresses: 'addresses of forms on our sites',
};

function settingWords(where: string, before: object, after: object): string[] {
  const old = new Map(Object.entries(before));
  return Object.entries(after).flatMap(([name, value]) => {
    const was: unknown = old.get(name);
    if (name === 'rules' || JSON.stringify(was) === JSON.stringify(value)) return [];
    if (Array.isArray(was) && Array.isArray(value)) return [`${where}: ${LIST_WORDS[name] ?? name}${listChange(was, value)}`];
    const say = SETTING_WORDS[`${where}.${name}`] ?? ((it: unknown) => `${name} is ${plain(it)}`);
    return [`${where}: ${say(value)}; before, ${say(was)}`];
  });
}

const MOST_NAMED = 3;

/** What a list has more and less, by name where they are few. */
function listChange(before: readonly unknown[], after: readonly unknown[]): string {
  const nameOf = (item: unknown): string =>
    typeof item === 'object' && item !== null && 'value' in item ? String((item as { value: unknown }).value) : plain(item);
  const was = new Set(before.map(nameOf));
  const is = new Set(after.map(nameOf));
  const parts = [
    ['more', [...is].filter((value) => !was.has(value))],
    ['no longer', [...was].filter((value) => !is.has(value))],
  ] as const;
  const said = parts
    .filter(([, names]) => names.length > 0)
    .map(
      ([how, names]) =>
        `${how} ${names.length <= MOST_NAMED ? names.join(', ') : `${names.slice(0, MOST_NAMED).join(', ')} and ${names.length - MOST_NAMED} others`}`,
    );
  return said.length > 0 ? `: ${said.join('; ')}` : ' differ from the stored ones';
}
