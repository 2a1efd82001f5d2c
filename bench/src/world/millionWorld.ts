import { owner } from '../../../server/src/testing/testServer';

/** Sizes of the world. */
export interface WorldSize {
  emails: number;
  accounts: number;
  contacts: number;
}

export const MILLION: WorldSize = { emails: 1_000_000, accounts: 20_000, contacts: 100_000 };

const OWN = 'quillmere.example';
const MAILBOXES = 20;
/** Emails of one conversation. */
const THREAD = 4;

/**
 * Fills an installation that is set up with mail of three years, as the cautious rulebook leaves it, by set-based statements: a fifth are
 * newsletters that stay out; the rest goes both ways with known people, in conversations of four, a tenth of it under a deal.
 */
export async function makeMillionWorld(ownerUrl: string, { emails, accounts, contacts }: WorldSize): Promise<void> {
  const run = (statement: string): Promise<unknown> => owner(ownerUrl, statement);
  await run(
    `INSERT INTO users (email, name, role) SELECT 'member' || i || '@${OWN}', 'Member ' || i, 'rep' FROM generate_series(1, ${MAILBOXES}) i`,
  );
  await run(`INSERT INTO mailboxes (address, owner_id) SELECT email, id FROM users WHERE email LIKE 'member%'`);
  await run(`INSERT INTO accounts (name) SELECT 'Company ' || i FROM generate_series(1, ${accounts}) i`);
  await run(`INSERT INTO account_domains (account_id, domain) SELECT id, 'company-' || id || '.example' FROM accounts`);
  await run(
    `INSERT INTO contacts (name, account_id) SELECT 'Person ' || i, 1 + (i - 1) % ${accounts} FROM generate_series(1, ${contacts}) i`,
  );
  await run(
    `INSERT INTO person_addresses (kind, person_id, address) SELECT 'contact', id, 'p' || id || '@company-' || account_id || '.example' FROM contacts`,
  );
  await run(
    `INSERT INTO deals (name, code, account_id) SELECT 'Deal ' || i, 'QH-' || i, 1 + (i - 1) % ${accounts} FROM generate_series(1, ${contacts / 10}) i`,
  );
  await run(`INSERT INTO deal_people (deal_id, kind, person_id) SELECT id, 'contact', id * 10 FROM deals`);
  const steps = (match: string): string =>
    `'[{"step":"keepOut","rule":null,"verdict":"passed","evidence":[]},{"step":"takeIn","rule":"take-in.scope","verdict":"taken in","evidence":[]},{"step":"match","rule":"match.person","verdict":"${match}","evidence":[]},{"step":"create","rule":null,"verdict":"nothing created","evidence":[]},{"step":"share","rule":"share.level","verdict":"owner","evidence":[]}]'::jsonb`;
  const out = `'[{"step":"keepOut","rule":"keep-out.machine-mail","verdict":"kept out","evidence":[]}]'::jsonb`;
  // n numbers the conversations; every fifth is one of newsletters.
  await run(
    `CREATE UNLOGGED TABLE bench_mail AS SELECT i, (i - 1) / ${THREAD} AS n, 1 + ((i - 1) / ${THREAD} * 7919) % ${contacts} AS contact, (i - 1) / ${THREAD} % 5 = 4 AS newsletter, (i - 1) % ${THREAD} AS turn FROM generate_series(1, ${emails}) i`,
  );
  await run(`INSERT INTO emails (id, identity, message_id, "references", family_id, conversation_id, is_forward, sent_at, date_source, arrived_at, size, mail_class, class_header, class_value, problems, owner_ids, direction, outcome, external_domains, steps, rulebook_version, decided_at)
    OVERRIDING SYSTEM VALUE SELECT i, 'bench-' || i, 'bench-' || i || '@x.example', '{}', n * ${THREAD} + 1, n * ${THREAD} + 1, false,
      now() - interval '3 years' + i * (interval '3 years' / ${emails + 1}), 'header', now(), 4000, CASE WHEN newsletter THEN 'newsletter' ELSE 'person' END, CASE WHEN newsletter THEN 'List-Unsubscribe' END, CASE WHEN newsletter THEN '<mailto:u@x.example>' END,
      '[]', ARRAY[(SELECT min(id) FROM users WHERE email LIKE 'member%') + n % ${MAILBOXES}], CASE WHEN turn % 2 = 0 OR newsletter THEN 'received' ELSE 'sent' END, CASE WHEN newsletter THEN 'kept out' ELSE 'filed' END,
      ARRAY[CASE WHEN newsletter THEN 'letter-' || n % 500 || '.example' ELSE 'company-' || (1 + (contact - 1) % ${accounts}) || '.example' END], CASE WHEN newsletter THEN ${out} ELSE ${steps('matched')} END, 1, now() FROM bench_mail`);
  await run(`INSERT INTO email_contents (email_id, subject, base_subject, preview, body, has_html, attachment_count, search)
    SELECT i, (ARRAY['Delivery of the gauges ', 'Invoice ', 'Calibration of the wave staff ', 'Visit on the quay '])[1 + n % 4] || n, '', 'Good morning', 'Good morning, about number ' || n, false, 0, '' FROM bench_mail WHERE NOT newsletter`);
  await run(`INSERT INTO participants (email_id, role, position, address, domain, name) SELECT i, CASE WHEN turn % 2 = 0 THEN 'from' ELSE 'to' END, 0, 'p' || contact || '@company-' || (1 + (contact - 1) % ${accounts}) || '.example', 'company-' || (1 + (contact - 1) % ${accounts}) || '.example', 'Person ' || contact FROM bench_mail WHERE NOT newsletter
    UNION ALL SELECT i, CASE WHEN turn % 2 = 0 THEN 'to' ELSE 'from' END, 1, 'member' || (1 + n % ${MAILBOXES}) || '@${OWN}', '${OWN}', '' FROM bench_mail WHERE NOT newsletter`);
  await run(
    `INSERT INTO sightings (email_id, mailbox_id, folder) SELECT i, (SELECT min(id) FROM mailboxes) + n % ${MAILBOXES}, 'INBOX' FROM bench_mail`,
  );
  await run(`INSERT INTO filings (email_id, kind, record_id, rule) SELECT i, 'contact', contact, 'match.person' FROM bench_mail WHERE NOT newsletter
    UNION ALL SELECT i, 'account', 1 + (contact - 1) % ${accounts}, 'match.account-by-person' FROM bench_mail WHERE NOT newsletter
    UNION ALL SELECT i, 'deal', contact / 10, CASE WHEN turn = 0 THEN 'match.only-open-deal' ELSE 'match.deal-by-conversation' END FROM bench_mail WHERE NOT newsletter AND contact % 10 = 0`);
  await run('INSERT INTO seen_domains (domain) SELECT DISTINCT unnest(external_domains) FROM emails ON CONFLICT DO NOTHING');
  await run('DROP TABLE bench_mail');
  await run('ANALYZE');
}
