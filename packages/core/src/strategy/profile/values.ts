import { z } from 'zod';

const height = z.number().min(-10_000).max(10_000).nullable();

export const profileSchema = z.object({
  /** Walls that can be come to from outside the part, those of closed areas, or both. */
  which: z.enum(['outer', 'inner', 'all']),
  /** Walls of upright holes: left to other steps, or milled as all others. */
  holes: z.enum(['left', 'milled']).default('left'),
  /** Left on walls and on level ground, mm; less than 0 on walls: a press fit. */
  allowance: z.number().min(-1).max(20),
  bottomAllowance: z.number().min(0).max(20),
  tolerance: z.number().min(0.001, 'At least 0.001 mm.').max(0.5),
  top: height,
  /** Height of the tip; null: the foot of each wall. */
  bottom: height,
  /** How far walls are passed that end at the part's underside, mm. */
  beyond: z.number().min(0).max(100),
  /** Least slope of a wall, degrees. */
  fromSlopeDeg: z.number().min(45).max(90),
  /** Thickest steel that the first side pass may meet, mm. */
  mostSteel: z.number().min(0.01).max(50),
  /** Only where this assembly of the crib did not reach, made larger by an overlap, mm; null: everywhere. */
  restOf: z.string().max(60).nullable().default(null),
  restOverlap: z.number().min(0).max(20).default(0.2),
  ap: z.number().positive('Above 0.').max(500),
  /** Side passes, null: as many as the steel beside walls wants; and their distance, mm. */
  passes: z.int('A whole number.').min(1, 'At least 1.').max(50).nullable(),
  ae: z.number().positive('Above 0.').max(200),
  /** Thickness that the last side pass takes, mm; null: as the others. */
  lastAe: z.number().min(0.01, 'At least 0.01 mm.').max(50).nullable().default(null),
  /** How often the last side pass is run once more at each depth. */
  springs: z.int('A whole number.').min(0).max(10),
  direction: z.enum(['climb', 'conventional']),
  /** Round sharp outer corners, or straight past them. */
  corners: z.enum(['rolled', 'sharp']).default('rolled'),
  /** Radius of the arcs by which a wall is met and left, and length of the straight before and after them, mm. */
  leadRadius: z.number().min(0).max(100),
  leadLength: z.number().min(0).max(100),
  /** Who makes up for a worn cutter: nobody, or the control by its radius offset. */
  wear: z.enum(['path', 'control']).default('path'),
  /** A closed pass goes on past its beginning, an open one past the ends of its wall, by this, mm. */
  overlap: z.number().min(0).max(50),
  /** A closed pass goes down along the wall at this angle, degrees; null: beside it. */
  rampDeg: z.number().min(0.1, 'At least 0.1°.').max(45).nullable(),
  /** Bridges left round an outer wall that is passed through, their width and height, mm. */
  tabs: z.int('A whole number.').min(0).max(50),
  tabWidth: z.number().min(0.1).max(100),
  tabHeight: z.number().min(0.05).max(100),
});
export type ProfileValues = z.infer<typeof profileSchema>;
