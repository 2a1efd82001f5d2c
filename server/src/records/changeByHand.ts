import { isRefusal } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { RecordDetail, RecordKind, User } from '@fulvet/contract';
import type { CompiledRulebook } from '@fulvet/core';
import type { Concerned } from '../base/concerned';
import { decideFor } from '../base/concerned';
import type { Tx } from '../base/db/database';
import type { Services } from '../base/services';
import { noteStep } from '../base/undoLog';
import { liveRulebook } from '../rulebook/liveRulebook';
import { editRecord } from './editRecord';
import { handOver } from './handOver';
import { nounOf } from './kinds';
import { setPeopleOn } from './peopleOnRecord';
import type { WithPeople } from './peopleOnRecord';
import { recordDetail } from './recordDetail';
import { undoCreate } from './undoCreate';
import { undoDealPeople } from './undoDealPeople';
import { editStep, undoEdit } from './undoEdit';
import { undoHandOver } from './undoHandOver';

/** An answer, and whose mail has to be decided again for it. */
interface Changed<Answer> {
  answer: Answer;
  concerned: Concerned;
}

/** Changes records in one transaction, then has the mail that this concerns decided again. */
async function change<Answer>(
  services: Services,
  user: User,
  work: (tx: Tx, compiled: CompiledRulebook) => Promise<Changed<Answer> | Refusal>,
): Promise<Answer | Refusal> {
  const { compiled } = await liveRulebook(services.database);
  const changed = await services.database.as(user.id, (tx) => work(tx, compiled));
  if (isRefusal(changed)) return changed;
  await decideFor(services, changed.concerned);
  return changed.answer;
}

type Values = Parameters<typeof editRecord>[4];

/** The step that undoes what was done; null where nothing was. */
interface Undoable {
  undo: number | null;
}

export const createByHand = (
  services: Services,
  user: User,
  kind: RecordKind,
  values: Values,
): Promise<{ id: number; undo: number } | Refusal> =>
  change(services, user, async (tx, compiled) => {
    const created = await editRecord(tx, user.id, kind, null, values, compiled);
    if (isRefusal(created)) return created;
    const { id, name, concerned } = created;
    const step = { summary: `Created the ${nounOf(kind)} ${name}`, payload: { kind, id } };
    return { answer: { id, undo: await noteStep(tx, user.id, undoCreate, step) }, concerned };
  });

export const editByHand = (
  services: Services,
  user: User,
  { kind, id }: { kind: RecordKind; id: number },
  values: Values,
): Promise<(Undoable & RecordDetail) | Refusal> =>
  change(services, user, async (tx, compiled) => {
    const edited = await editRecord(tx, user.id, kind, id, values, compiled);
    if (isRefusal(edited)) return edited;
    const detail = await recordDetail(tx, kind, id, compiled);
    if (isRefusal(detail)) return detail;
    const { name, changes, concerned } = edited;
    const undo = changes.length > 0 ? await noteStep(tx, user.id, undoEdit, editStep(kind, id, name, changes)) : null;
    return { answer: { ...detail, undo }, concerned };
  });

export const handOverByHand = (
  services: Services,
  user: User,
  kind: RecordKind,
  order: Parameters<typeof handOver>[3],
): Promise<(Undoable & { ids: number[] }) | Refusal> =>
  change<Undoable & { ids: number[] }>(services, user, async (tx) => {
    const handed = await handOver(tx, user.id, kind, order);
    if (isRefusal(handed)) return handed;
    const { ids, before, toName, concerned } = handed;
    if (ids.length === 0) return { answer: { ids, undo: null }, concerned };
    const summary = `Gave ${ids.length} ${nounOf(kind, ids.length)} to ${toName}`;
    const undo = await noteStep(tx, user.id, undoHandOver, { summary, payload: { kind, to: order.to, records: before } });
    return { answer: { ids, undo }, concerned };
  });

export const putPeopleOn = (
  services: Services,
  user: User,
  record: WithPeople,
  people: Parameters<typeof setPeopleOn>[3],
): Promise<(Undoable & RecordDetail) | Refusal> =>
  change(services, user, async (tx, compiled) => {
    const set = await setPeopleOn(tx, user.id, record, people);
    if (isRefusal(set)) return set;
    const detail = await recordDetail(tx, record.kind, record.id, compiled);
    if (isRefusal(detail)) return detail;
    const { before, after, concerned } = set;
    const isSame = JSON.stringify(before) === JSON.stringify(after);
    const step = { summary: `Changed who is on ${detail.name}`, payload: { kind: record.kind, dealId: record.id, before, after } };
    return { answer: { ...detail, undo: isSame ? null : await noteStep(tx, user.id, undoDealPeople, step) }, concerned };
  });
