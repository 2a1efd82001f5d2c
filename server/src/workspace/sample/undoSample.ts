import { recordKind } from '@fulvet/contract';
import type { Undone } from '@fulvet/contract';
import { z } from 'zod';
import { writeDown } from '../../base/audit';
import { isRefusal } from '../../base/refusal';
import { markUndone } from '../../base/undoLog';
import type { Undoer } from '../../base/undoLog';
import { undoMailImport } from '../../mailboxes/files/undoMailImport';
import { undoImport } from '../../records/import/undoImport';

const loaded = z.object({ importId: z.number(), records: z.array(z.object({ kind: recordKind, created: z.array(z.number()) })) });

/** The sample world is removed: its mail with what that created, then its records, but for what was changed or built on since. */
export const undoSample: Undoer<z.output<typeof loaded>> = {
  kind: 'sample',
  forAdministrators: 'The sample world is for administrators.',
  payload: loaded,
  undo: async (services, doer, { importId, records }, at) => {
    const mail = await undoMailImport.undo(services, doer, { importId }, at);
    if (isRefusal(mail)) return mail;
    const kept: Undone['kept'] = [...mail.kept];
    let { changed } = mail;
    for (const { kind, created } of [...records].reverse()) {
      const back = await undoImport.undo(services, doer, { kind, created, updated: [] }, at);
      if (isRefusal(back)) return back;
      changed += back.changed;
      kept.push(...back.kept);
    }
    await services.database.work(async (tx) => {
      await markUndone(tx, doer.id, undoMailImport.kind, { importId });
      await writeDown(tx, doer, { kind: 'mailbox', about: 'removed the sample world' });
    });
    return { changed, kept };
  },
};
