import { z } from 'zod';
import { id } from '../base/values';

/** What texts and documents that members keep have in common. */
export const keptScope = z.enum(['own', 'team', 'all']).describe('Who finds it: its owner, a team, everyone.');

/** For whom something is kept, and in which language. */
export const keptFor = {
  scope: keptScope.default('own'),
  teamId: id.nullable().default(null).describe('The team that finds it, where the scope is a team.'),
  language: z
    .string()
    .trim()
    .regex(/^(?:[a-z]{2,3}(?:-[A-Za-z0-9]{2,8})*)?$/, 'must be a language tag such as de or en-GB')
    .default('')
    .describe('BCP 47; empty: any.'),
};
