import { isRefusal } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { OwnKeepOut, User } from '@fulvet/contract';
import type { Services } from '../base/services';
import { noteStep } from '../base/undoLog';
import { liveRulebook } from '../rulebook/liveRulebook';
import { outsideValue } from '../rulebook/outsideValue';
import { addOwnKeepOut } from './queries';
import { decideKeptOut, undoOwnKeepOut } from './undoOwnKeepOut';

/** Keeps an external address or domain out of a member's own mail, as a step that can be undone. */
export async function keepOutOfOwnMail(
  { database, jobs }: Services,
  user: User,
  kind: OwnKeepOut['kind'],
  written: string,
): Promise<(OwnKeepOut & { undo: number | null }) | Refusal> {
  const { compiled } = await liveRulebook(database);
  const value = outsideValue(kind, written, compiled, '; internal mail is handled by the Keep out step.');
  if (isRefusal(value)) return value;
  const added = await database.as(user.id, async (tx) => {
    const { keepOut, isNew } = await addOwnKeepOut(tx, user.id, kind, value);
    const step = { summary: `Keep ${keepOut.value} out of your own mail`, payload: { id: keepOut.id } };
    return { ...keepOut, undo: isNew ? await noteStep(tx, user.id, undoOwnKeepOut, step) : null };
  });
  await decideKeptOut(jobs, added);
  return added;
}
