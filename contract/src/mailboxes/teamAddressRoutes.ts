import { z } from 'zod';
import type { RouteShape } from '../base/route';
import { ADMINS } from '../base/route';
import { email } from '../base/values';
import { teamAddress } from './shapes';

export const teamAddressRoutes = {
  listTeamAddresses: {
    method: 'get',
    path: '/team-addresses',
    access: ADMINS,
    summary: 'Addresses of mailboxes outside our own domains, with what confirming each would change',
    response: z.object({ addresses: z.array(teamAddress) }),
  },
  setTeamAddress: {
    method: 'put',
    path: '/team-addresses',
    access: ADMINS,
    summary: 'Say whether such an address belongs to us; its mail is decided again',
    body: z.strictObject({ address: email, isOurs: z.boolean() }),
    response: z.object({ addresses: z.array(teamAddress) }),
  },
} as const satisfies Record<string, RouteShape>;
