import { z } from 'zod';

export const errorShape = z.object({
  error: z.object({ code: z.string(), message: z.string(), fields: z.record(z.string(), z.string()).optional() }),
});

export type ApiError = z.infer<typeof errorShape>;
