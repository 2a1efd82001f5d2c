import { isRefusal } from '../base/refusal';
import type { Handlers } from '../base/handler';
import { liveRulebook } from '../rulebook/liveRulebook';
import { addressesOutside } from './queries';
import { setTeamAddress } from './setTeamAddress';

export const teamAddressRoutes: Pick<Handlers, 'listTeamAddresses' | 'setTeamAddress'> = {
  listTeamAddresses: async ({ services }) => {
    const { compiled } = await liveRulebook(services.database);
    return { addresses: await services.database.work((tx) => addressesOutside(tx, compiled)) };
  },

  setTeamAddress: async ({ user, body, services }) => {
    const addresses = await setTeamAddress(services, user, body.address, body.isOurs);
    return isRefusal(addresses) ? addresses : { addresses };
  },
};
