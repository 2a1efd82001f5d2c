import { Refusal, isRefusal } from '../../base/refusal';
import type { User } from '@fulvet/contract';
import { cautiousRulebook, rulebookSchema } from '@fulvet/core';
import type { Database } from '../../base/db/database';
import { refusing } from '../../base/db/transactions';
import { putRulebook } from '../../rulebook/liveRulebook';
import { demandGoodPassword, hashPassword } from './passwords';
import { insertFirstAdmin, isNew } from './queries';
import { createToken } from './tokens';

/** What the first administrator says of their company and themselves. */
export interface FirstSetUp {
  workspace: string;
  ownDomains: string[];
  admin: { email: string; name: string; password: string };
}

/** Sets an empty installation up: its name, its first administrator with an access token, and a cautious rulebook. */
export async function setUp(
  database: Database,
  { workspace, ownDomains, admin }: FirstSetUp,
): Promise<{ user: User; token: string } | Refusal> {
  const unread = ownDomains.filter((domain) => !rulebookSchema.safeParse(cautiousRulebook([domain])).success);
  if (unread.length > 0) {
    const said = `${unread.join(', ')} ${unread.length === 1 ? 'is no domain: it looks' : 'are no domains: they look'} like harbour.example`;
    return new Refusal('unfit', 'bad-input', `${said}. Nothing was set up.`, { ownDomains: said });
  }
  const refused = demandGoodPassword(admin.password, admin);
  if (isRefusal(refused)) return refused;
  const passwordHash = await hashPassword(admin.password);
  return refusing(database.app, async (tx) => {
    if (!(await isNew(tx))) return new Refusal('conflict', 'set-up-already', 'The installation is set up already. Sign in instead.');
    const user = await insertFirstAdmin(tx, workspace, admin, passwordHash);
    await putRulebook(tx, rulebookSchema.parse(cautiousRulebook(ownDomains)), 'First set-up', user.id);
    const { token } = await createToken(tx, user.id, 'First set-up');
    return { user, token };
  });
}
