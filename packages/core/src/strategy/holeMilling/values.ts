import { z } from 'zod';
import { choiceShape, isInOrder, OUT_OF_ORDER } from '../holes/choice';

export const millingSchema = z
  .object({
    ...choiceShape,
    /** Left on the wall, mm. */
    allowance: z.number().min(-1).max(20),
    /** How far through holes are passed, mm. */
    beyond: z.number().min(0).max(100),
    /** Depth of a turn, mm. */
    pitch: z.number().positive('Above 0.').max(100),
    /** Side step between the turns of one radius and the next, mm. */
    ae: z.number().positive('Above 0.').max(200),
    /** Thickness that the last radius takes, mm; 0: none apart. */
    finish: z.number().min(0).max(10),
    direction: z.enum(['climb', 'conventional']),
    tolerance: z.number().min(0.001, 'At least 0.001 mm.').max(0.5),
  })
  .refine(isInOrder, OUT_OF_ORDER);
export type HoleMillingValues = z.infer<typeof millingSchema>;
