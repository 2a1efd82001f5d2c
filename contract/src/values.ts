import { z } from 'zod';

export const recordKind = z.enum(['contact', 'lead', 'account', 'deal']);
export type RecordKind = z.infer<typeof recordKind>;

export const email = z
  .string()
  .trim()
  .min(3)
  .max(320)
  .regex(/^[^\s@]+@[^\s@]+$/, { message: 'must be an address such as ida@harbour.example' });
