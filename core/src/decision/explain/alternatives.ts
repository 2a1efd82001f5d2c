import type { Decision, Evidence } from '../types';
import type { Outcome, Step } from '../../facts/types';
import { visibilityKey } from '../visibility';
import type { CompiledRulebook, CompiledSteps } from '../../rulebook/compile';
import type { Rulebook } from '../../rulebook/schema';
import { RULES } from '../../rulebook/schema';
import type { Situation } from './situation';
import { decideIn } from './situation';

/** One thing that could be otherwise, in words behind “if”, and the situation then. */
export interface Variant {
  words: string;
  situation: Situation;
}

/** What would come of an email if one thing were otherwise. */
export interface Alternative {
  /** In words, behind “if”. */
  words: string;
  outcome: Outcome;
  /** As {@link visibilityKey} says it. */
  visibility: string;
  /** Records it would then stand under and does not now, and the reverse, as `kind:id`; a negative id is a record that would be created. */
  won: string[];
  lost: string[];
  /** Names of the records that would be created. */
  created: string[];
}

/** What you could change for another outcome: each rule and default that spoke, taken away by itself, and what would come of it. */
export function alternatives(situation: Situation): Alternative[] {
  const now = decideIn(situation);
  return ruleVariants(situation, now).flatMap(({ words, situation: other }) => {
    const then = decideIn(other);
    const won = keysOf(then).filter((key) => !keysOf(now).includes(key));
    const lost = keysOf(now).filter((key) => !keysOf(then).includes(key));
    const visibility = visibilityKey(then);
    const same = then.outcome === now.outcome && visibility === visibilityKey(now) && won.length + lost.length === 0;
    const created = then.creations.filter((creation) => won.includes(`${creation.kind}:${creation.id}`)).map((creation) => creation.name);
    return same ? [] : [{ words, outcome: then.outcome, visibility, won, lost, created }];
  });
}

const keysOf = (decision: Decision): string[] => decision.filings.map((filing) => `${filing.kind}:${filing.id}`);

/** The situations in which one rule or default that spoke on the email does not. */
export function ruleVariants(situation: Situation, decision: Decision): Variant[] {
  const { rulebook } = situation;
  const variants: Variant[] = [];
  const add = (words: string, changed: CompiledRulebook): void => {
    if (!variants.some((variant) => variant.words === words)) variants.push({ words, situation: { ...situation, rulebook: changed } });
  };
  for (const entry of decision.docket) {
    for (const evidence of entry.evidence) {
      if (evidence.fact === 'rule')
        add(`the rule “${evidence.name || evidence.rule}” did not apply`, withoutRule(rulebook, entry.step, evidence.rule));
      if (evidence.fact === 'entry') add(`${evidence.value} were not on the kept-out list`, withoutEntry(rulebook, evidence.entry));
      if (evidence.fact === 'mail class' && entry.verdict === 'kept out')
        add(`machine mail of this kind (${evidence.mailClass}) came in`, { ...rulebook, keepsOutClass: () => false });
      if (evidence.fact === 'scope' && entry.verdict === 'left to its owner')
        add('all mail with external people came in', withDefaults(rulebook, { takeIn: { scope: 'external' } }));
      for (const [words, defaults] of createDefaults(evidence)) add(words, withDefaults(rulebook, defaults));
      if (evidence.fact === 'level' && evidence.because === 'policy')
        add(
          evidence.level === 'everyone' ? 'filed mail were seen by its owner only' : 'filed mail were seen by everyone',
          withDefaults(rulebook, { share: { level: evidence.level === 'everyone' ? 'owner' : 'everyone', existenceOnly: false } }),
        );
      if (evidence.fact === 'deal scores' && decision.questions.some((it) => it.about === 'deal')) {
        const [best, next] = evidence.scores;
        const ahead = (best?.score ?? 0) - (next?.score ?? 0);
        if (best && ahead > 0)
          add(
            `a score of ${best.score.toFixed(2)}, ${ahead.toFixed(2)} ahead of the next, were enough`,
            withDefaults(rulebook, { match: { threshold: best.score, margin: Math.floor(ahead * 100) / 100 } }),
          );
      }
      if (evidence.fact === 'deals too young')
        add('mail from longer before a deal could be about it', withDefaults(rulebook, { match: { leadDays: 3650 } }));
      if (evidence.fact === 'open deals') add('open deals were compared by score', withDefaults(rulebook, { match: { deal: 'scored' } }));
    }
  }
  const { match } = rulebook.source;
  if (match.account === 'never') add('mail were filed under accounts', withDefaults(rulebook, { match: { account: 'personOrDomain' } }));
  if (match.account === 'person')
    add('accounts were found by their domains, too', withDefaults(rulebook, { match: { account: 'personOrDomain' } }));
  const asksWhich = decision.docket.some((entry) => entry.evidence.some((evidence) => evidence.fact === 'open deals'));
  if (match.deal === 'certain' && !asksWhich && !decision.filings.some((filing) => filing.kind === 'deal'))
    add('deals were found by score, too', withDefaults(rulebook, { match: { deal: 'scored' } }));
  if (match.deal === 'never') add('mail were filed under deals', withDefaults(rulebook, { match: { deal: 'certain' } }));
  if (decision.docket[0]?.rule === RULES.internal) add('internal mail came in', withDefaults(rulebook, { keepOut: { internal: false } }));
  return variants;
}

function createDefaults(evidence: Evidence): [string, { create: Partial<Rulebook['create']> }][] {
  if (evidence.fact !== 'not created') return [];
  if (evidence.because === 'policy')
    return [
      ['unknown people became contacts once we wrote to them', { create: { people: 'contact', after: 'weWrote' } }],
      ['unknown people became contacts with their first email', { create: { people: 'contact', after: 'firstEmail' } }],
    ];
  if (evidence.because === 'too many people') return [['an email could have more external people', { create: { mostPeople: 100_000 } }]];
  return evidence.because === 'not written to' || evidence.because === 'no answer' || evidence.because === 'too few emails'
    ? [['their first email were enough to create a record', { create: { after: 'firstEmail' } }]]
    : [];
}

export function withoutRule(rulebook: CompiledRulebook, step: Step, rule: string): CompiledRulebook {
  const steps: CompiledSteps = { ...rulebook.steps, [step]: rulebook.steps[step].without(rule) };
  return { ...rulebook, steps };
}

function withoutEntry(rulebook: CompiledRulebook, entry: string): CompiledRulebook {
  return {
    ...rulebook,
    entryFor: (address, domain) => {
      const found = rulebook.entryFor(address, domain);
      return found?.id === entry ? undefined : found;
    },
  };
}

type Defaults = { [S in Step]?: Partial<Rulebook[S]> };

function withDefaults(rulebook: CompiledRulebook, defaults: Defaults): CompiledRulebook {
  const source = { ...rulebook.source };
  for (const [step, changed] of Object.entries(defaults)) Object.assign(source, { [step]: { ...source[step as Step], ...changed } });
  return { ...rulebook, source };
}
