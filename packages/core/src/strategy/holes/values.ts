import { z } from 'zod';
import { choiceShape, isInOrder, OUT_OF_ORDER } from './choice';

export const holeSchema = z
  .object({
    ...choiceShape,
    /** Depth under the hole's upper edge, of a drill to its full diameter, mm; null: the hole's own. */
    depth: z.number().positive('Above 0.').max(1000).nullable(),
    /** How far through holes are passed, and blind ones are not reached, mm. */
    beyond: z.number().min(0).max(100),
    short: z.number().min(0).max(100),
    peck: z.enum(['depth', 'none', 'full', 'break']),
    /** mm; null: DC. */
    peckDepth: z.number().min(0.05).max(500).nullable(),
    /** Diameter of a spot drill's mark, mm; null: the hole's. */
    mark: z.number().positive('Above 0.').max(500).nullable(),
  })
  .refine(isInOrder, OUT_OF_ORDER);
export type HoleValues = z.infer<typeof holeSchema>;
