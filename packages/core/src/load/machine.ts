import { z } from 'zod';

const travel = z.number().positive().max(20_000);

export const machineSchema = z
  .object({
    name: z.string().min(1).max(80),
    /** Travel of the axes, mm; a job that does not tell it is not held back by it. */
    travelX: travel.default(20_000),
    travelY: travel.default(20_000),
    travelZ: travel.default(20_000),
    /** 1/min. */
    minSpindle: z.number().positive().max(200_000).default(50),
    /** Power (kW) and largest torque (Nm) at the spindle. */
    power: z.number().positive().max(500).default(15),
    torque: z.number().positive().max(10_000).default(80),
    /** mm/min. */
    rapid: z.number().positive().max(200_000),
    /** mm/s². */
    acceleration: z.number().positive().max(50_000),
    /** From the last motion of a cutter to the first of the next, s (8 s: common practice, no source). */
    toolChange: z.number().min(0).max(600).default(8),
    /** 1/min. */
    maxSpindle: z.number().positive().max(200_000),
    /** mm/min. */
    maxFeed: z.number().positive().max(200_000),
  })
  .refine((m) => m.minSpindle <= m.maxSpindle, {
    path: ['minSpindle'],
    message: 'The lowest spindle speed must not be above the highest.',
  });
export type Machine = z.infer<typeof machineSchema>;
