import { z } from 'zod';

/** Material of the workpiece: group after ISO 513, specific cutting force kc1.1 (N/mm²) and its exponent mc (Kienzle). */
export const materialSchema = z.object({
  name: z.string().min(1).max(80),
  group: z.enum(['P', 'M', 'K', 'N', 'S', 'H']),
  kc11: z.number().positive().max(20_000),
  mc: z.number().min(0).max(1),
  /** Brinell, HBW (ISO 6506); null: not told. */
  hardness: z.number().min(20).max(900).nullable().default(null),
  /** kg/dm³. */
  density: z.number().positive().max(30),
});
export type Material = z.infer<typeof materialSchema>;
