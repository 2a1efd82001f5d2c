import { recordKind } from '@fulvet/contract';
import type { Undone } from '@fulvet/contract';
import { z } from 'zod';
import { decideFor } from '../../base/concerned';
import { isRefusal } from '../../base/refusal';
import type { Undoer } from '../../base/undoLog';
import { liveRulebook } from '../../rulebook/liveRulebook';
import { currentValues } from '../currentValues';
import { editRecord } from '../editRecord';
import { takeBack } from '../undoCreate';
import { forgetMoves } from '../undoEdit';

const change = z.object({ field: z.string(), before: z.string(), after: z.string() });
const imported = z.object({
  kind: recordKind,
  created: z.array(z.number()),
  updated: z.array(z.object({ id: z.number(), changes: z.array(change) })),
});

/**
 * An import of records is taken back record by record: what it changed says again what it said, and what it created goes; but for records that
 * were changed, or built on, since.
 */
export const undoImport: Undoer<z.output<typeof imported>> = {
  kind: 'recordImport',
  payload: imported,
  undo: async (services, doer, { kind, created, updated }, at) => {
    const { compiled } = await liveRulebook(services.database);
    const kept: Undone['kept'] = [];
    const back: number[] = [];
    await services.database.as(doer.id, async (tx) => {
      const current = await currentValues(
        tx,
        kind,
        updated.map(({ id }) => id),
      );
      for (const { id, changes } of updated) {
        const values = current.get(id);
        if (!values) continue;
        const stays = (because: string): void => void kept.push({ kind, id, name: values.name ?? '', because });
        if (changes.some(({ field, after }) => (values[field] ?? '') !== after)) {
          stays('it was changed since');
          continue;
        }
        const before = Object.fromEntries(changes.map((item) => [item.field, item.before]));
        const edited = await editRecord(tx, doer.id, kind, id, before, compiled);
        if (isRefusal(edited)) stays(edited.message);
        else back.push(id);
      }
      if (kind === 'contact') await forgetMoves(tx, back, at);
    });
    const stayed = await services.database.work((tx) =>
      takeBack(
        tx,
        created.map((id) => ({ kind, id })),
      ),
    );
    await decideFor(services, { addresses: [], domains: [], records: { kind, ids: back } });
    await services.jobs.decidePending();
    return { changed: back.length + created.length - stayed.length, kept: [...kept, ...stayed] };
  },
};
