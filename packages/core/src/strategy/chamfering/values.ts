import { z } from 'zod';

export const chamferSchema = z.object({
  /** Chamfers that the part has, or its sharp upper edges. */
  edges: z.enum(['drawn', 'sharp']),
  /** Width in plan of what is taken of a sharp edge, mm. */
  width: z.number().min(0.02, 'At least 0.02 mm.').max(20),
  /** How far the tip goes below the lower end of a chamfer, mm. */
  below: z.number().min(0).max(50),
  /** Only edges of faces at this height, mm; null: at any. */
  face: z.number().min(-10_000).max(10_000).nullable(),
  direction: z.enum(['climb', 'conventional']),
});
export type ChamferValues = z.infer<typeof chamferSchema>;
