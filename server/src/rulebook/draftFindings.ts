import { z } from 'zod';
import { rowsOf } from '../base/db/rows';
import type { Finding, RuleUse } from '@fulvet/contract';
import type { RuleStep, Rulebook, RulebookFinding } from '@fulvet/core';
import { RULE_STEPS, checkRulebook, leavesOf } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import { namesOf } from '../base/db/recordNames';
import { listNames } from './draft';
import { compiledFor } from './liveRulebook';
import type { Parts } from './ruleUse';
import { tookIn } from './ruleUse';

const QUIET_DAYS = 90;

const mailboxRow = z.object({ address: z.string(), private: z.boolean() });

const userRow = z.object({ name: z.string() });

/** What is odd about a draft, each with its effect in numbers and, where one is sure, a repair. */
export async function draftFindings(services: Parts, rulebook: Rulebook, live: Rulebook): Promise<Finding[]> {
  const db = services.database.worker;
  const compiled = await compiledFor(db, rulebook);
  const names = await listNames(db);
  const mailboxes = await rowsOf(db, mailboxRow, sql`SELECT address, share <> 'rules' AS private FROM mailboxes`);
  const people = await rowsOf(db, userRow, sql`SELECT lower(email) AS name FROM users UNION ALL SELECT lower(name) FROM teams`);
  const found = checkRulebook(rulebook, {
    lists: new Set(names.keys()),
    records: await namedRecords(services, rulebook),
    isPublicProvider: (domain) => compiled.isPublicProvider(domain),
    people: new Set([...people.map((row) => row.name), ...mailboxes.map((row) => row.address)]),
    privateMailboxes: new Set(mailboxes.filter((row) => row.private).map((row) => row.address)),
  });
  const took = await tookIn(services, QUIET_DAYS);
  return [
    ...found.map((finding): Finding => ({
      ...asFinding(finding, rulebook),
      emails: finding.rule === null ? null : (took.get(finding.rule)?.took ?? 0),
    })),
    ...quietRules(rulebook, live, took),
    ...(await missingDomains(
      services,
      rulebook,
      (domain) => compiled.isOurs(`somebody@${domain}`, domain) || compiled.isPublicProvider(domain),
    )),
  ];
}

async function namedRecords(services: Parts, rulebook: Rulebook): Promise<Set<string>> {
  const named = RULE_STEPS.flatMap((step) => rulebook[step].rules.flatMap((rule) => [...leavesOf(rule.when)]))
    .flatMap((leaf) => (leaf.fact === 'filedUnder' ? [{ kind: leaf.kind as string, id: leaf.id }] : []))
    .concat(rulebook.match.rules.flatMap(({ then }) => (then.do === 'fileUnder' ? [{ kind: then.kind, id: then.id }] : [])));
  if (named.length === 0) return new Set();
  return new Set(
    (
      await namesOf(
        services.database.worker,
        named.map(({ kind, id }) => `${kind}:${id}`),
      )
    ).keys(),
  );
}

const nameIn = (rulebook: Rulebook, step: RuleStep | null, id: string | null): string => {
  const rules: readonly { id: string; name: string }[] = step ? rulebook[step].rules : [];
  return `“${rules.find((rule) => rule.id === id)?.name || id || ''}”`;
};

function asFinding({ code, step, rule, other, repaired }: RulebookFinding, rulebook: Rulebook): Omit<Finding, 'emails'> {
  const name = nameIn(rulebook, step, rule);
  const sentences: Record<RulebookFinding['code'], string> = {
    covered: `${name} never applies: ${nameIn(rulebook, step, other)} before it applies to all the same emails.`,
    repeats: `${name} says the same as ${nameIn(rulebook, step, other)}.`,
    'matches-all': `${name} applies to every email, so the rules after it never do.`,
    'matches-none': `${name} can apply to no email: one of its groups is empty.`,
    'list-gone': `${name} asks for a list that is gone.`,
    'record-gone': other ? `${name} names the record ${other}, which is gone.` : `${name} names no record yet: choose one.`,
    'pattern-all': `A pattern of ${name} matches everything.`,
    'both-sides': `${other ?? ''} is let through by ${name} and stands among the kept-out domains and addresses; the rule goes first.`,
    'people-gone': `${name} names ${other ?? ''}, and there is no such mailbox, member or team.`,
    'provider-company': `${name} files mail from ${other ?? ''}, a public mail provider, under one account: everyone there would count as that company.`,
    'private-mailbox': `${name} would share mail of ${other ?? ''}, but its owner keeps it private. The owner’s choice comes first, so nothing of it is shared.`,
    'provider-entry': `${other ?? ''} is a public mail provider: customers who write from a private address there are kept out as well.`,
  };
  return {
    code,
    step,
    rule,
    message: sentences[code],
    repair: repaired === null ? null : { label: 'Remove that rule', document: repaired },
  };
}

/** Rules in force that are kept in the draft and took nothing; what is new has had no time to. */
function quietRules(rulebook: Rulebook, live: Rulebook, took: ReadonlyMap<string, RuleUse>): Finding[] {
  return RULE_STEPS.flatMap((step) =>
    rulebook[step].rules
      .filter((rule) => rule.on && !took.has(rule.id) && live[step].rules.some((item) => item.id === rule.id))
      .map((rule) => ({
        code: 'quiet',
        step,
        rule: rule.id,
        message: `${nameIn(rulebook, step, rule.id)} took nothing in ${QUIET_DAYS} days.`,
        emails: 0,
        repair: null,
      })),
  );
}

const participantRow = z.object({ domain: z.string(), members: z.number(), emails: z.number() });

/** Domains from which members write that are not among our own; one click puts them there. */
async function missingDomains(services: Parts, rulebook: Rulebook, isKnown: (domain: string) => boolean): Promise<Finding[]> {
  const rows = await rowsOf(
    services.database.worker,
    participantRow,
    sql`
    SELECT d.domain, d.members, (SELECT count(DISTINCT p.email_id)::int FROM participants p JOIN emails e ON e.id = p.email_id AND e.outcome <> 'sealed' WHERE p.domain = d.domain AND p.role = 'from') AS emails
    FROM (SELECT lower(split_part(email, '@', 2)) AS domain, count(*)::int AS members FROM users WHERE active GROUP BY 1) d`,
  );
  return rows
    .filter(({ domain }) => !isKnown(domain))
    .map(({ domain, members, emails }) => ({
      code: 'own-domain',
      step: null,
      rule: null,
      message: `${members} ${members === 1 ? 'member has an address' : 'members have addresses'} at ${domain}, which is not among our own domains: colleagues there without a mailbox count as external.`,
      emails,
      repair: {
        label: `Add ${domain} to our own domains`,
        document: { ...rulebook, us: { ...rulebook.us, ownDomains: [...rulebook.us.ownDomains, domain] } },
      },
    }));
}
