import { z } from 'zod';
import { type BodyRoom, HOUSE_BODY_ROOM } from '../tool/shape';

export const REACHES = ['whole', 'safe'] as const;

/** How a step gets from cut to cut, mm; null: what holds for all steps. */
export const stepTravelSchema = z
  .object({
    /** Height above the block at which the cutter crosses freely; null: the setup's. */
    crossing: z.number().min(1).max(1000).nullable().default(null),
    /** Height over steel at which a rapid ends; null: {@link HOUSE_APPROACH_MM}. */
    approach: z.number().min(0.3).max(50).nullable().default(null),
    /** Room kept beside cutter and holder while crossing; null: {@link HOUSE_CLEARANCE_MM}. */
    clearance: z.number().min(0.2).max(50).nullable().default(null),
    /** Gaps as wide as this are crossed without lifting, where nothing stands in the way; null: as each kind of step does. */
    gap: z.number().min(0).max(1000).nullable().default(null),
    /** Where shank or holder would touch the part: planned all the same, and refused; or cut only as far as they clear it. */
    reach: z.enum(REACHES).default('whole'),
    /** Room kept around what is wider than the edges while cutting, then; null: {@link HOUSE_BODY_ROOM}. */
    shankClearance: z.number().min(0).max(20).nullable().default(null),
    holderClearance: z.number().min(0).max(20).nullable().default(null),
  })
  .prefault({});
export type StepTravel = z.infer<typeof stepTravelSchema>;

/** Height over the steel at which a rapid ends and the entry feed begins, mm: common practice, no source. */
export const HOUSE_APPROACH_MM = 1;
/** Room kept around cutter and holder while crossing, mm: common practice, no source. */
export const HOUSE_CLEARANCE_MM = 0.8;

/** The distances that planning reads, mm. */
export interface TravelRoom {
  readonly approach: number;
  readonly clearance: number;
  /** Largest gap that is crossed without lifting; undefined: as each kind of step does. */
  readonly gap?: number | undefined;
  /** Room around shank and holder where only what they clear is cut; undefined where all is. */
  readonly safe?: BodyRoom | undefined;
}

export const HOUSE_ROOM: TravelRoom = { approach: HOUSE_APPROACH_MM, clearance: HOUSE_CLEARANCE_MM };

export function roomOf({ approach, clearance, gap, reach, shankClearance, holderClearance }: StepTravel): TravelRoom {
  return {
    approach: approach ?? HOUSE_APPROACH_MM,
    clearance: clearance ?? HOUSE_CLEARANCE_MM,
    ...(gap === null ? {} : { gap }),
    safe:
      reach === 'safe'
        ? { shank: shankClearance ?? HOUSE_BODY_ROOM.shank, holder: holderClearance ?? HOUSE_BODY_ROOM.holder }
        : undefined,
  };
}
