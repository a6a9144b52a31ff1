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
    /** From a standing spindle to its speed, s: after every change of the cutter. */
    runUp: z.number().min(0).max(60).default(0),
    /** How far the control may round a corner off at speed, mm (0.01 mm: common practice, no source). */
    rounding: z.number().min(0.001).max(1).default(0.01),
    /** Real time over the calculated one, as it was seen at the machine. */
    timeFactor: z.number().min(0.2).max(5).default(1),
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

/** Seconds from the last motion of a cutter to the first of the next at speed. */
export function changeTime({ toolChange, runUp, timeFactor }: Machine): number {
  return (toolChange + runUp) * timeFactor;
}

/**
 * The machine with the factor that makes a calculated time the real one.
 *
 * @param calculated by the machine as it is, s
 * @param real as it was seen at the machine, s
 * @returns undefined when the two are so far apart that something else is wrong
 */
export function learntFrom(machine: Machine, calculated: number, real: number): Machine | undefined {
  const timeFactor = Math.round(1e4 * machine.timeFactor * (real / calculated)) / 1e4;
  return calculated > 0 && timeFactor >= 0.2 && timeFactor <= 5 ? { ...machine, timeFactor } : undefined;
}
