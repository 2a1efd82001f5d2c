import type { NoisyPeople } from './noisyPeople';
import type { DecidedWorld } from './answerFigures';

/** What came of the people of a noisy world. */
export interface PeopleFigures {
  /** Those who became a record, of those who had to. */
  created: { right: number; of: number };
  /** Who became a record and must not. */
  never: string[];
  missing: string[];
  names: { right: number; of: number; wrong: string[] };
  /** Pairs of emails of one conversation that stand in one, and pairs of several that do. */
  pairs: { right: number; of: number; wrong: number };
}

export async function peopleFigures(made: NoisyPeople, { services }: DecidedWorld): Promise<PeopleFigures> {
  const { rows } = await services.database.workerPool.query<{ address: string; name: string }>(
    `SELECT a.address, coalesce(c.name, l.name) AS name FROM person_addresses a LEFT JOIN contacts c ON a.kind = 'contact' AND c.id = a.person_id LEFT JOIN leads l ON a.kind = 'lead' AND l.id = a.person_id`,
  );
  const nameAt = new Map(rows.map((row) => [row.address, row.name]));
  const figures: PeopleFigures = {
    created: { right: 0, of: 0 },
    never: [],
    missing: [],
    names: { right: 0, of: 0, wrong: [] },
    pairs: { right: 0, of: 0, wrong: 0 },
  };
  for (const { given, family, email, should, of, isNamed } of made.strangers) {
    const name = nameAt.get(email);
    if (should === 'never') {
      if (name !== undefined) figures.never.push(`${of}: ${email}`);
      continue;
    }
    figures.created.of += 1;
    if (name === undefined) {
      figures.missing.push(`${of}: ${email}`);
      continue;
    }
    figures.created.right += 1;
    if (!isNamed) continue;
    figures.names.of += 1;
    if (name.replace(/^Dr\. /, '') === `${given} ${family}`) figures.names.right += 1;
    else figures.names.wrong.push(`${name} for ${given} ${family} <${email}>`);
  }
  const emails = await services.database.workerPool.query<{ id: string; conversation: number }>(
    `SELECT message_id AS id, conversation_id AS conversation FROM emails WHERE message_id IS NOT NULL`,
  );
  const sizes = (key: (id: string, conversation: number) => string): number => {
    const count = new Map<string, number>();
    for (const { id, conversation } of emails.rows) {
      if (!made.talks.has(id)) continue;
      const value = key(id, conversation);
      count.set(value, (count.get(value) ?? 0) + 1);
    }
    return [...count.values()].reduce((sum, size) => sum + (size * (size - 1)) / 2, 0);
  };
  const both = sizes((id, conversation) => `${made.talks.get(id) ?? ''} ${conversation}`);
  figures.pairs = {
    right: both,
    of: sizes((id) => String(made.talks.get(id))),
    wrong: sizes((_, conversation) => String(conversation)) - both,
  };
  return figures;
}
