import { z } from 'zod';
import { recordKind } from './values';

/** What many routes have in common. */
export const idParam = z.object({ id: z.coerce.number().int().positive() });

export const kindParam = z.object({ kind: recordKind });

export const kindAndId = kindParam.extend(idParam.shape);

export const nothing = z.object({});

export const bytes = { mediaType: 'application/octet-stream' } as const;

export const addresses = z.array(z.string().trim().toLowerCase().max(320)).max(2000);

export const emailIds = z.string().regex(/^\d+(?:,\d+){0,499}$/, { message: 'must be ids separated by commas' });
