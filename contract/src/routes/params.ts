import { z } from 'zod';
import * as s from '../shapes';

/** What many routes have in common. */
export const idParam = z.object({ id: z.coerce.number().int().positive() });
export const kindParam = z.object({ kind: s.recordKind });
export const kindAndId = kindParam.extend(idParam.shape);
export const nothing = z.object({});
export const bytes = { mediaType: 'application/octet-stream' } as const;
