import { z } from 'zod';
import { ENTRIES } from './entries';
import { FLAT_LEVELS } from './heights';
import { DIRECTIONS, PATTERNS } from './loops';

/** How areas are filled where a whole part is roughed: passes of steady load beside the loops and lines. */
export const ROUGHING_PATTERNS = [...PATTERNS, 'steady'] as const;

/** Values of levels cut one after another; lengths in mm. What older jobs do not tell is as it was for them. */
export const levelSchema = z.object({
  sideAllowance: z.number().min(0).max(20),
  floorAllowance: z.number().min(0).max(20),
  /** How far the path may be off, mm. */
  tolerance: z.number().min(0.001).max(0.5).default(0.008),
  ap: z.number().min(0.01).max(100),
  /** Depth of the first level alone, as under a cast skin, mm; null: as the others. */
  firstAp: z.number().min(0.01).max(100).nullable().default(null),
  ae: z.number().min(0.01).max(200),
  top: z.number().min(-10_000).max(10_000).nullable(),
  bottom: z.number().min(-10_000).max(10_000).nullable(),
  /** How levels go together with the part's flats. */
  flats: z.enum(FLAT_LEVELS).default('even'),
  /** Stairs between levels thicker than this are cut again; null: they stay. */
  stairs: z.number().min(0.01).max(100).nullable().default(null),
  pattern: z.enum(PATTERNS).default('auto'),
  /** So many loops along the wall and no more; null: the whole area. */
  wallLoops: z.int().min(1).max(1000).nullable().default(null),
  /** Direction of parallel lines to X, degrees. */
  angleDeg: z.number().min(-180).max(180).default(0),
  direction: z.enum(DIRECTIONS),
  /** Whether each area is cut to its depth before the next, or all areas of a level together. */
  order: z.enum(['depth', 'level']).default('level'),
  cornerRadius: z.number().min(0).max(100).default(0),
  /** Corners over which the cutter would meet steel by more than this are eased by extra lines, degrees; null: they are not. */
  cornerLoadDeg: z.number().min(60).max(180).nullable().default(null),
  entry: z.enum(ENTRIES).default('helix'),
  rampAngleDeg: z.number().min(0.1).max(30),
  helixRadius: z.number().min(0.05).max(200).nullable().default(null),
  smallestOpening: z.number().min(0).max(1000),
  leadRadius: z.number().min(0).max(100).default(0),
  lift: z.number().min(0).max(20).default(0),
});
export type LevelValues = z.infer<typeof levelSchema>;

/** Values of roughing, which has passes of steady load as well. */
export const roughingSchema = levelSchema.extend({
  pattern: z.enum(ROUGHING_PATTERNS).default('auto'),
  /** Least radius of a path of steady load, mm; null: 0.05 DC. */
  leastRadius: z.number().min(0.01).max(100).nullable().default(null),
  /** A way through air at a level that is longer is crossed at rapid rate, mm; null: none is. */
  longestWay: z.number().min(0).max(10_000).nullable().default(null),
});
export type RoughingValues = z.infer<typeof roughingSchema>;
