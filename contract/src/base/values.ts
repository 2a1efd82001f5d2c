import { RECORD_KINDS } from '@fulvet/core';
import { z } from 'zod';

export const recordKind = z.enum(RECORD_KINDS);

export type RecordKind = z.infer<typeof recordKind>;

/** A record as `deal:7`. */
export const recordKey = z
  .string()
  .regex(new RegExp(`^(?:${RECORD_KINDS.join('|')}):\\d{1,15}$`), 'must be a kind and an id such as deal:7');

export const email = z
  .string()
  .trim()
  .min(3)
  .max(320)
  .regex(/^[^\s@]+@[^\s@]+$/, { message: 'must be an address such as ida@harbour.example' });

/** Who sees an email beside those who use the mailboxes that hold it. */
export const shareLevel = z.enum(['owner', 'record', 'teams', 'everyone']);

export const outcome = z.enum(['filed', 'waiting', 'unfiled', 'kept out', 'sealed']);

export type Outcome = z.infer<typeof outcome>;

export const direction = z.enum(['sent', 'received', 'internal']);

export const mailClass = z.enum(['person', 'newsletter', 'notice', 'auto-reply', 'bounce', 'calendar', 'event']);

export const id = z.number().int().positive();

export const moment = z.iso.datetime({ offset: true });

/** Where a page of a list ended, for the next one. */
export const cursor = z.string().regex(/^-?\d{1,18}\.\d{1,18}$/, 'is not a cursor that this list gave');
