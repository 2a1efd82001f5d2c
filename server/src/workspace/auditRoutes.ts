import { isRefusal } from '../base/refusal';
import { writeDown } from '../base/audit';
import type { Handlers } from '../base/handler';
import { auditPageOf, auditPages } from './auditPages';
import { checkAudit } from './checkAudit';

export const auditRoutes: Pick<Handlers, 'listAudit' | 'exportAudit' | 'checkAudit'> = {
  listAudit: ({ user, query, services }) => services.database.as(user.id, (tx) => auditPageOf(tx, query)),

  exportAudit: async ({ user, query, services, res }) => {
    res.set({ 'Content-Type': 'application/jsonl; charset=utf-8', 'Content-Disposition': 'attachment; filename="audit.jsonl"' });
    const lines = async function* (): AsyncGenerator<string> {
      for await (const entries of auditPages(services.database, user.id, query))
        yield entries.map((entry) => `${JSON.stringify(entry)}\n`).join('');
    };
    const refused = await services.downloads.send(user, res, lines());
    if (isRefusal(refused)) return refused;
    await services.database.as(user.id, (tx) => writeDown(tx, user, { kind: 'export', about: 'exported the audit log' }));
    return undefined;
  },

  checkAudit: async ({ services }) => {
    const { chains, ...check } = await checkAudit(services.database.worker);
    // Chains of single members are theirs: that one has entries tells that there is something to hide.
    return {
      ...check,
      entries: chains.find((chain) => chain.chain === 'workspace')?.entries ?? 0,
      chains: chains.filter((chain) => chain.chain === 'workspace'),
    };
  },
};
