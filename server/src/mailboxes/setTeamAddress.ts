import { isRefusal, notFound } from '../base/refusal';
import type { Refusal } from '../base/refusal';
import type { TeamAddress, User } from '@fulvet/contract';
import { writeDown } from '../base/audit';
import type { Services } from '../base/services';
import { liveRulebook } from '../rulebook/liveRulebook';
import { mailboxKey } from './mailboxKey';
import { addressesOutside, confirmAddress, forgetInternal, takeBackAddress } from './queries';

/** Says whether the address of a mailbox that no own domain covers is ours. */
export async function setTeamAddress(
  { database, jobs }: Services,
  user: User,
  address: string,
  isOurs: boolean,
): Promise<TeamAddress[] | Refusal> {
  const { compiled } = await liveRulebook(database);
  const key = mailboxKey(address);
  const addresses = await database.work(async (tx) => {
    const known = await addressesOutside(tx, compiled);
    if (!known.some((item) => item.address === key)) return notFound('address of a mailbox outside our own domains');
    if (isOurs) await confirmAddress(tx, key, user.id);
    else await takeBackAddress(tx, key);
    const about = `${isOurs ? 'confirmed' : 'took back'} that an address outside our own domains belongs to us`;
    await writeDown(tx, user, { kind: 'settings', about });
    if (!isOurs) await forgetInternal(tx);
    return addressesOutside(tx, compiled);
  });
  if (isRefusal(addresses)) return addresses;
  if (isOurs) await jobs.decideConcerned({ addresses: [key], domains: [] });
  else await jobs.decidePending();
  return addresses;
}
