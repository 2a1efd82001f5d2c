import { isRefusal } from '../base/refusal';
import { writeDown } from '../base/audit';
import type { Handlers } from '../base/handler';
import { decisionLines, mboxEntries } from './exportMail';

export const exportRoutes: Pick<Handlers, 'exportDecisions' | 'exportMail'> = {
  exportDecisions: async ({ user, services, res }) => {
    await services.database.as(user.id, (tx) => writeDown(tx, user, { kind: 'export', about: 'exported decisions' }));
    res.set({ 'Content-Type': 'application/jsonl; charset=utf-8', 'Content-Disposition': 'attachment; filename="decisions.jsonl"' });
    const refused = await services.downloads.send(user, res, decisionLines(services, user));
    if (isRefusal(refused)) return refused;
    return undefined;
  },

  exportMail: async ({ user, services, res }) => {
    await services.database.as(user.id, (tx) => writeDown(tx, user, { kind: 'export', about: 'exported all mail that they may read' }));
    res.set({ 'Content-Type': 'application/mbox', 'Content-Disposition': 'attachment; filename="mail.mbox"' });
    const refused = await services.downloads.send(user, res, mboxEntries(services, user));
    if (isRefusal(refused)) return refused;
    return undefined;
  },
};
