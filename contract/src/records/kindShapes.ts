import { z } from 'zod';
import { id } from '../base/values';

/** What stands for the records of a kind in lists. */
export const KIND_ICONS = ['case', 'tool', 'box', 'book', 'flag', 'star', 'map', 'truck', 'heart', 'shield'] as const;

const kindState = z.object({
  name: z.string().trim().min(1, { message: 'needs a name' }).max(60),
  open: z.boolean().describe('Records in this state are open.'),
});

const name = z.string().trim().min(1, { message: 'needs a name' }).max(40);

/** What is set of a kind of records that the workspace defines. */
export const ownKindContent = z.strictObject({
  singular: name,
  plural: name,
  icon: z.enum(KIND_ICONS),
  prefix: z
    .string()
    .trim()
    .toUpperCase()
    .regex(/^[A-Z][A-Z0-9]{1,9}$/, { message: 'must be 2 to 10 letters and digits such as CASE' })
    .describe('What stands before the number of its records.'),
  states: z
    .array(kindState.extend({ was: z.string().max(60).optional().describe('The name that it had, where it is renamed.') }))
    .min(1, { message: 'needs a state' })
    .max(20)
    .describe('In order; a new record begins in the first.'),
  hasPeople: z.boolean().describe('Contacts and leads are linked to its records.'),
  hasAccount: z.boolean().describe('An account is linked to its records.'),
  hasAddresses: z.boolean().describe('Its records have addresses, and mail with one of them leads there.'),
  seenByTeams: z
    .array(id)
    .max(100)
    .describe('Teams that see its records, beside administrators and owners; empty: whoever sees other records.'),
});

export type OwnKindContent = z.input<typeof ownKindContent>;

export const ownKind = z.object({
  id,
  key: z.string().describe('By which rules, files and lists name it; stays when the name changes.'),
  singular: z.string(),
  plural: z.string(),
  icon: z.enum(KIND_ICONS),
  prefix: z.string(),
  states: z.array(kindState),
  hasPeople: z.boolean(),
  hasAccount: z.boolean(),
  hasAddresses: z.boolean(),
  seenByTeams: z.array(id),
});

export type OwnKind = z.infer<typeof ownKind>;

/** A kind that is there to begin with, switched on where it is wanted. */
export const CASES: OwnKindContent = {
  singular: 'Case',
  plural: 'Cases',
  icon: 'case',
  prefix: 'CASE',
  states: [
    { name: 'New', open: true },
    { name: 'In work', open: true },
    { name: 'Waiting for them', open: true },
    { name: 'Solved', open: false },
  ],
  hasPeople: true,
  hasAccount: true,
  hasAddresses: false,
  seenByTeams: [],
};
