import { z } from 'zod';
import { decideFor } from '../base/concerned';
import { isRefusal } from '../base/refusal';
import type { Undoer } from '../base/undoLog';
import { peopleOn, setDealPeople } from './dealPeople';
import { changedSince } from './undoEdit';

const people = z.array(z.object({ kind: z.enum(['contact', 'lead']), id: z.number(), role: z.string() }));
const onDeal = z.object({ dealId: z.number(), before: people, after: people });

/** A deal gets back the people that it had, as long as they were not changed since. */
export const undoDealPeople: Undoer<z.output<typeof onDeal>> = {
  kind: 'dealPeople',
  payload: onDeal,
  undo: async (services, doer, { dealId, before, after }) => {
    const result = await services.database.as(doer.id, async (tx) => {
      if (JSON.stringify(await peopleOn(tx, dealId)) !== JSON.stringify(after)) return changedSince(['people']);
      return setDealPeople(tx, doer.id, dealId, before);
    });
    if (isRefusal(result)) return result;
    await decideFor(services, result.concerned);
    return { changed: 1, kept: [] };
  },
};
