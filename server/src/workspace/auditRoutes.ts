import { writeDown } from '../base/audit';
import type { Handlers } from '../base/handler';
import { auditPageOf, auditPages } from './auditPages';
import { checkAudit } from './checkAudit';

export const auditRoutes: Pick<Handlers, 'listAudit' | 'exportAudit' | 'checkAudit'> = {
  listAudit: ({ user, query, services }) => services.database.as(user.id, (tx) => auditPageOf(tx, query)),

  exportAudit: async ({ user, query, services, res }) => {
    res.set({ 'Content-Type': 'application/jsonl; charset=utf-8', 'Content-Disposition': 'attachment; filename="audit.jsonl"' });
    await services.database.as(user.id, async (tx) => {
      for await (const entries of auditPages(tx, query)) res.write(entries.map((one) => `${JSON.stringify(one)}\n`).join(''));
      await writeDown(tx, user, { kind: 'export', about: 'exported the audit log' });
    });
    res.end();
    return undefined;
  },

  checkAudit: async ({ services }) => {
    const { chains, ...check } = await checkAudit(services.database.worker);
    // Chains of single members are theirs: that one has entries tells that there is something to hide.
    return {
      ...check,
      entries: chains.find((one) => one.chain === 'workspace')?.entries ?? 0,
      chains: chains.filter((one) => one.chain === 'workspace'),
    };
  },
};
