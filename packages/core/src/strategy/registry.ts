import { chamfering } from './chamfering';
import { cornerTracing } from './cornerTracing';
import { evenScallop } from './evenScallop';
import { facing } from './facing';
import { flats } from './flats';
import { holeMilling } from './holeMilling';
import { holes } from './holes';
import type { StepKind } from './kind';
import { levelRoughing } from './levelRoughing';
import { parallelPasses } from './parallelPasses';
import { profile } from './profile';
import { restRoughing } from './restRoughing';
import { slopeSplit } from './slopeSplit';
import { steadyRoughing } from './steadyRoughing';
import { waterline } from './waterline';

/** All kinds of step. A new kind is one folder and one line here. */
export const STEP_KINDS: readonly StepKind[] = [
  facing,
  levelRoughing,
  steadyRoughing,
  restRoughing,
  parallelPasses,
  waterline,
  slopeSplit,
  evenScallop,
  cornerTracing,
  flats,
  profile,
  holes,
  holeMilling,
  chamfering,
];

export function kindOf(id: string): StepKind | undefined {
  return STEP_KINDS.find((kind) => kind.id === id);
}
