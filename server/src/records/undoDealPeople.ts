import { z } from 'zod';
import { decideFor } from '../base/concerned';
import { isRefusal } from '../base/refusal';
import type { Undoer } from '../base/undoLog';
import { KINDS_WITH_PEOPLE } from './kinds';
import { peopleOn, setPeopleOn } from './peopleOnRecord';
import { changedSince } from './undoEdit';

const people = z.array(z.object({ kind: z.enum(['contact', 'lead']), id: z.number(), role: z.string() }));
/** Steps of earlier versions are about deals. */
const onRecord = z.object({ kind: z.enum(KINDS_WITH_PEOPLE).default('deal'), dealId: z.number(), before: people, after: people });

/** A record gets back the people that it had, as long as they were not changed since. */
export const undoDealPeople: Undoer<z.output<typeof onRecord>> = {
  kind: 'dealPeople',
  payload: onRecord,
  undo: async (services, doer, { kind, dealId: id, before, after }) => {
    const result = await services.database.as(doer.id, async (tx) => {
      if (JSON.stringify(await peopleOn(tx, { kind, id })) !== JSON.stringify(after)) return changedSince(['people']);
      return setPeopleOn(tx, doer.id, { kind, id }, before);
    });
    if (isRefusal(result)) return result;
    await decideFor(services, result.concerned);
    return { changed: 1, kept: [] };
  },
};
