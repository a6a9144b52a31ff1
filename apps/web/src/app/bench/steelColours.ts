import { MISSED_SHARE, NOT_CUT, OUT_OF_REACH } from '@esquisse/core';
import type { Shown } from '../lens/lensData';
import { leftoverColour, type Palette, type Rgb, rgb } from './palette';
import { LEVEL_LIGHT } from './studio';

/** Gouges below this are rounding and chord error of the drawn mesh, mm. */
const GOUGE_MM = 0.01;
/** Steel within this of the block's top is still raw, mm. */
const RAW_MM = 1e-3;

/** A colour that is seen as it is told on a level face in full light. */
const asLit = ([r, g, b]: Rgb): Rgb => [r / LEVEL_LIGHT, g / LEVEL_LIGHT, b / LEVEL_LIGHT];

/**
 * What a lens makes of the steel: a colour for each height and value on it.
 *
 * @param top height of the block, mm
 * @param brushed values that are picked out in the lens
 */
export function colourOf(
  shown: Shown,
  palette: Palette,
  top: number,
  brushed: readonly [number, number] | undefined,
): (height: number, value: number | undefined) => Rgb {
  const graphite = rgb(palette.graphite);
  const raw = rgb(palette.graphiteSide);
  const { high, isRegion, beyond, ridges } = shown;
  const outOfReach = rgb(palette.ochre);
  const notCut = rgb(palette.indigo);
  const tooMuch = rgb(palette.sanguine);
  const toCut = rgb(palette.verdigris);
  return (height, value) => {
    if (isRegion && value === 1) return asLit(toCut);
    if (ridges !== undefined && value === OUT_OF_REACH) return asLit(outOfReach);
    if (ridges !== undefined && value === NOT_CUT) return asLit(notCut);
    if (ridges !== undefined && value !== undefined && value > MISSED_SHARE * ridges) return asLit(tooMuch);
    if (beyond !== undefined && value !== undefined && value > beyond) return asLit(tooMuch);
    if (high !== undefined && value !== undefined && !Number.isNaN(value))
      return brushed && (value < brushed[0] || value > brushed[1])
        ? graphite
        : asLit(leftoverColour(value, high, GOUGE_MM));
    return height > top - RAW_MM ? raw : graphite;
  };
}
