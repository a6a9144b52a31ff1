import type { Type } from '@angular/core';
import type { Lens } from '../lenses';
import { ContactsLegend } from './contactsLegend';
import { LeftoverLegend } from './leftoverLegend';
import { LoadLegend } from './loadLegend';
import { PartLegend } from './partLegend';
import { ReachLegend } from './reachLegend';
import { RegionLegend } from './regionLegend';
import { RidgesLegend } from './ridgesLegend';
import { SteelLegend } from './steelLegend';

/** What stands under the choice of lenses for each of them: what its colours mean, its histogram and its figures. */
export const LEGENDS: Readonly<Record<Lens, Type<unknown>>> = {
  part: PartLegend,
  steel: SteelLegend,
  leftover: LeftoverLegend,
  region: RegionLegend,
  reach: ReachLegend,
  contacts: ContactsLegend,
  ridges: RidgesLegend,
  load: LoadLegend,
};
