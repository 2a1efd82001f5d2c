import { Refusal, isRefusal, notFound } from '../base/refusal';
import type { User } from '@fulvet/contract';
import type { Records, Rulebook, Suggestion } from '@fulvet/core';
import { suggestions } from '@fulvet/core';
import type { Services } from '../base/services';
import { editByHand } from '../records/changeByHand';
import { currentValues } from '../records/currentValues';
import { acceptedRulebook } from '../rulebook/acceptedRulebook';
import { draftState, keepDraft, loadDraft } from '../rulebook/draft';
import { compiledFor, liveRulebook } from '../rulebook/liveRulebook';
import { takeRulebookLock } from '../rulebook/rulebookLock';
import { smallTrial } from '../trials/smallTrial';
import { tuningFacts } from './suggestionFacts';

async function suggestionsFor({ database }: Services, userId: number): Promise<Suggestion[]> {
  const { compiled } = await liveRulebook(database);
  return suggestions(await database.as(userId, (tx) => tuningFacts(tx, compiled)));
}

type Taken = Pick<Suggestion, 'step' | 'change'>;

const idOf = (step: Suggestion['step'], name: string): string =>
  `${step}-${name}`
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .slice(0, 60)
    .replace(/-$/, '');

function isIn(rulebook: Rulebook, { step, change }: Taken): boolean {
  if (change.do === 'rule') return rulebook[step].rules.some((rule) => rule.id === idOf(step, change.name));
  return change.do === 'addForm' && rulebook.us.formAddresses.includes(change.address);
}

/** The rulebook with what is suggested. A rule goes behind those that are there: what is settled stays so. */
function withSuggestion(rulebook: Rulebook, { step, change }: Taken): Rulebook {
  if (change.do === 'addDomain') return rulebook;
  if (change.do === 'addForm')
    return { ...rulebook, us: { ...rulebook.us, formAddresses: [...rulebook.us.formAddresses, change.address] } };
  const { name, note, when, then } = change;
  const added = { name, note, when, then, id: idOf(step, name), on: true, appliesTo: { mailboxes: [], users: [], teams: [] } };
  return { ...rulebook, [step]: { ...rulebook[step], rules: [...rulebook[step].rules, added] } };
}

/** The records with the domain that is suggested for an account. */
function withDomain(records: Records, change: Suggestion['change']): Records {
  if (change.do !== 'addDomain') return records;
  const { account, domain } = change;
  return { ...records, accounts: records.accounts.map((it) => (it.id === account.id ? { ...it, domains: [...it.domains, domain] } : it)) };
}

/** What mail suggests to change, each with what it would do to the newest mail that it is about. */
export async function suggestionsWithEffect(services: Services, user: User) {
  const { database, blobs } = services;
  const draft = await database.as(user.id, (tx) => loadDraft(tx));
  const compiled = await compiledFor(database.worker, draft.rulebook);
  const found = (await suggestionsFor(services, user.id)).filter((suggestion) => !isIn(draft.rulebook, suggestion));
  return {
    suggestions: await Promise.all(
      found.map(async ({ code, about, because, step, change }) => {
        const changed = await compiledFor(database.worker, withSuggestion(draft.rulebook, { step, change }));
        const { do: does, ...rule } = change;
        return {
          code,
          about,
          because,
          step,
          does,
          rule: does === 'rule' ? rule : null,
          account: change.do === 'addDomain' ? change.account : null,
          effect: await smallTrial(database, blobs, about, {
            live: compiled,
            changed,
            more: change.do === 'addDomain' ? [{ kind: 'account', id: change.account.id }] : [],
            records: (it) => withDomain(it, change),
          }),
        };
      }),
    ),
  };
}

/** Adds a suggested domain to its account, as a step that can be undone. */
async function addDomain(
  services: Services,
  user: User,
  { account, domain }: Extract<Suggestion['change'], { do: 'addDomain' }>,
): Promise<number | null | Refusal> {
  const before = await services.database.as(user.id, async (tx) => (await currentValues(tx, 'account', [account.id])).get(account.id));
  if (!before) return notFound('account');
  const domains = [before.domains, domain].filter(Boolean).join(';');
  const edited = await editByHand(services, user, { kind: 'account', id: account.id }, { domains });
  return isRefusal(edited) ? edited : edited.undo;
}

/** Takes a suggestion: into the draft, or, a domain, onto its account at once. */
export async function takeSuggestion(services: Services, user: User, { code, about }: Pick<Suggestion, 'code' | 'about'>) {
  const found = (await suggestionsFor(services, user.id)).find((suggestion) => suggestion.code === code && suggestion.about === about);
  if (!found) return new Refusal('conflict', 'gone', 'This is no longer suggested: mail or records have changed. Look at the list again.');
  if (found.change.do === 'addDomain') {
    const undo = await addDomain(services, user, found.change);
    return isRefusal(undo) ? undo : services.database.as(user.id, async (tx) => ({ ...(await draftState(tx)), undo }));
  }
  return services.database.as(user.id, async (tx) => {
    await takeRulebookLock(tx);
    const draft = await loadDraft(tx);
    const result = await acceptedRulebook(services, withSuggestion(draft.rulebook, found));
    if (isRefusal(result)) return result;
    const { rulebook } = result;
    const refused = await keepDraft(tx, user.id, rulebook, draft.revision);
    if (isRefusal(refused)) return refused;
    return { ...(await draftState(tx)), undo: null };
  });
}
