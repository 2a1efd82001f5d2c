import { Directory } from '@fulvet/core';
import type { CompiledRulebook, ConversationMemory, StepEntry } from '@fulvet/core';
import { sql } from 'drizzle-orm';
import type { Sources } from '../base/reading/sources';
import type { Tx } from '../base/db/database';
import { takeMailLock } from '../base/db/mailLock';
import { markDamaged } from '../emails/damagedSources';
import { filedUnder } from '../emails/filingsText';
import type { RulebookInForce } from '../rulebook/rulebookInForce';
import type { DecidedEmail } from './decideInOrder';
import { decideInOrder } from './decideInOrder';
import type { StoredEmail } from './inputs/loadFacts';
import { loadInputs } from './inputs/loadInputs';
import { noteLateActivity } from './lateActivity';
import { bringBackTraces, hideTraces } from './sealedTraces';
import type { StoredDecisions } from './storeDecisions';
import { storeDecisions } from './storeDecisions';
import { takeOffTrials } from './takeOffTrials';

/**
 * Decides emails in their order and stores the decisions, in the transaction. Open pages are told by the caller, once what is stored is to stay.
 *
 * @param runId a run that is to be undone as one step
 * @param isAsked false for an email that stays as it stands and is only remembered
 */
export async function decideBatch(
  tx: Tx,
  blobs: Sources,
  ids: readonly number[],
  inForce: RulebookInForce,
  memories: Map<number, ConversationMemory>,
  runId: number | null = null,
  isAsked: (email: StoredEmail) => boolean = () => true,
): Promise<StoredDecisions & { tooFew: string[]; tooFewAgain: string[] }> {
  await takeMailLock(tx);
  await bringBackTraces(tx, ids);
  const { emails, records } = await loadInputs(tx, blobs, ids, inForce.rulebooks, { memories });
  await noteDamaged(tx, ids, emails);
  let lastId = 0;
  const temporary = { next: () => (lastId -= 1) };
  const rulebookFor = (email: StoredEmail): CompiledRulebook => inForce.versionFor(email).compiled;
  const decided = decideInOrder(emails, rulebookFor, new Directory(records), memories, temporary, (email) => !isAsked(email));
  const sealed = decided.filter(({ decision }) => decision.outcome === 'sealed').map(({ email }) => email);
  const newlySealed = sealed.filter(({ before }) => before.outcome !== 'sealed' && before.outcome !== null);
  await takeOffTrials(
    tx,
    newlySealed.map(({ facts }) => facts.id),
  );
  await noteLateActivity(tx, decided, inForce);
  const stored = await storeDecisions(tx, decided, { versionFor: (email) => inForce.versionFor(email), runId });
  await hideTraces(
    tx,
    sealed.map(({ facts }) => facts.id),
    sealed.flatMap(({ before }) => filedUnder(before.filings).map(({ kind, id }) => `${kind}:${id}`)),
  );
  const tooFewOf = (those: readonly DecidedEmail[]): string[] =>
    those.flatMap(({ decision }) => decision.docket.flatMap(addressesOfTooFew));
  const cameIn = decided.filter(({ email, decision }) => email.before.outcome === 'kept out' && decision.outcome !== 'kept out');
  return { ...stored, tooFew: tooFewOf(decided), tooFewAgain: tooFewOf(cameIn) };
}

/**
 * Emails whose source cannot be read keep the decision that they have, are marked, and stop no other email. They are decided again when their source is
 * repaired.
 */
async function noteDamaged(tx: Tx, ids: readonly number[], loaded: readonly StoredEmail[]): Promise<void> {
  if (loaded.length === ids.length) return;
  const found = new Set(loaded.map((email) => email.facts.id));
  const damaged = ids.filter((id) => !found.has(id));
  await markDamaged(tx, damaged);
  await tx.execute(sql`UPDATE emails SET decided_at = coalesce(decided_at, now()) WHERE id = ANY(${sql.param(damaged)}::bigint[])`);
}

/** People who became no record, since there were too few emails with them. */
function addressesOfTooFew({ evidence }: StepEntry): string[] {
  return evidence.flatMap((item) => (item.fact === 'not created' && item.because === 'too few emails' ? [item.address] : []));
}
