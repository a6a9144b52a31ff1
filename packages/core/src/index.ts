/** The public face of the core: what application, command line and tools use of it. */
export { BUILD } from './base/build';
export { CancelFlag } from './base/cancel';
export { errorFromWire, errorToWire, EsquisseError, isCancelled, messageOf, type WireError } from './base/errors';
export { shared } from './base/share';
export { type Caller, callHere, type Crew, crewOf, remoteCaller } from './crew/crew';
export { taskNamed } from './crew/task';
export { type Box, BOX_LEVELS, type BoxLevel, boxOfPositions, sizeOf } from './geometry/box';
export { contactMesh } from './geometry/contactMesh';
export { boxOf, facetsOfMesh, type MeshReport, type TriangleMesh, volumeOf, weld } from './geometry/mesh';
export { meshFingerprint } from './geometry/meshFingerprint';
export { type Vec3 } from './geometry/vector';
export { type Body3, BODY_ROLES, type BodyRole } from './part/bodies';
export { fileHash } from './part/fileHash';
export { AS_DRAWN, axesOf, laid, type Lay, layMesh, layTurned, layWithX, layWithZ, unlaid } from './part/lay';
export { outlineArea, type Point2 } from './geometry/outline';
export { type Outlines, readOutlines } from './drawing/outlines';
export { refuseLargeFile, refuseLargeText } from './part/text';
export { formatOf, PART_FORMATS, readPart, reportSentences } from './part/read';
export { type Scale, TRUE_SIZE } from './part/scale';
export { type StepBodies, type StepOptions, type StepReader } from './part/step';
export { type ReadMesh, readStl, writeStl } from './part/stl';
export { writeThreeMf } from './part/threeMfWriter';
export { type LengthUnit, UNIT_SYMBOLS } from './part/unit';
export { type Cut, CUT_WORDS, CUTS } from './tool/cuts';
export { counterpart, type Difference, differences, withTool } from './tool/exchange';
export { holderShape } from './tool/holderShapes';
export {
  type Assembly,
  type Crib,
  cribSchema,
  type Cutter,
  CUTTER_KINDS,
  BOUNDS_NOT_TOLD,
  CUTTER_WORDS,
  type CutterKind,
  cutterSchema,
  hasSize,
  cutterTitle,
  type Extension,
  feedRate,
  GRADE_WORDS,
  GRADES,
  type Holder,
  HOLDER_KINDS,
  misfit,
  neckEnd,
  shankStack,
  type Tool,
  toolOf,
  toolsOf,
  refusesMilling,
  toolTitle,
} from './tool/library';
export { readValue, type Relation, type Relations } from './tool/relative';
export { riseOf } from './tool/profile';
export {
  clampingStack,
  cuttingPiece,
  gaugeLength,
  measuredSizes,
  shapeInCrib,
  shapeOf,
  type ToolShape,
  upTo,
} from './tool/shape';
export { type Frustum } from './tool/profile';
export { advisedStickOut, longestStickOut, type Told, usualAssembly, usualCut, usualCutter } from './tool/usual';
export { cribToCsv, csvIntoCrib, type TableReport } from './tool/table';
export { isMeasuredList, measuredIntoCrib, presetterList } from './tool/presetter';
export {
  changedMagazine,
  type Loaded,
  madeOf,
  type Magazine,
  magazineChanges,
  unattended,
  type MagazineChanges,
  magazineSchema,
  magazinesSchema,
} from './tool/magazine';
export { outlineOfShape, type Shape, shapeProblem, SHAPES } from './geometry/shapes';
export { isBorder, outlineThrough } from './survey/edgeRows';
export { type Flat, type Hole, pocketsAmong } from './survey/features';
export {
  type Measure,
  measuresBetween,
  measuresOf,
  middleBetween,
  pickAt,
  type Picked,
  pickTitle,
} from './survey/pick';
export { addPicks, type FacePick, facesPicked, pickOfFace, togglePick } from './survey/facePicks';
export { outlinesUnder } from './survey/planOutline';
export { compareRevisions, compareScaled, type RevisionReport, revisionSentence } from './survey/revision';
export { ROOMY_MM } from './survey/rolling';
export { hiddenFromAbove } from './survey/seen';
export { endsOf, facesOf, type Surface, surfaceOf } from './survey/surface';
export { zonesIn } from './evaluate/pieceZones';
export { type Zone, type ZoneKind } from './steel/zones';
export { adviceOf, HIDDEN_SHARE, largestRadius, SLOPE_BIN_DEG, type Survey, surveyOf } from './survey/survey';
export { motionNear } from './path/near';
export { Motion, type Motions, type Toolpath } from './path/toolpath';
export { SkyShares } from './geometry/skyShare';
export { type GridFrame, type HeightMap } from './steel/heightMap';
export { leftoverFigures, type LeftoverFigures } from './steel/leftover';
export { type RestRegion } from './steel/restRegion';
export { steelSoup } from './steel/surface';
export { type LimitSide } from './field/bounds';
export { type Ridges } from './check/ridges';
export { type Unfinished } from './check/unfinished';
export { cuttingData, type Figure, type FigureKey } from './load/cuttingData';
export { changeTime, learntFrom, type Machine, machineSchema } from './load/machine';
export { type Material, materialSchema } from './load/material';
export { STIFFNESS } from './load/practice';
export { rougherThan } from './tool/rougher';
export { coolantDoubt, hardSteelDoubt, houseCoolant } from './load/coolant';
export { HOUSE_HELIX_DEG } from './load/quantities';
export { LOAD_QUANTITIES, type LoadQuantity } from './load/loadAlong';
export { type Coolant, COOLANT_WORDS, COOLANTS } from './tool/coolants';
export {
  cuttingOf,
  type CuttingFigures,
  EVEN_BY,
  type EvenFeed,
  evenSchema,
  type OwnCutting,
  STRENGTHS,
  USUAL_STRENGTH,
} from './load/stepCutting';
export { HOUSE_APPROACH_MM, HOUSE_CLEARANCE_MM } from './link/stepTravel';
export { type LeftOut, type StepPlan } from './link/context';
export { cutKeys, type KeptLoad, type LoadProposal, sameLoad } from './job/sameLoad';
export {
  beyondBound,
  cutterSymbols,
  houseOf,
  type HouseValues,
  houseValuesSchema,
  ownHouseValue,
  withHouseValue,
} from './strategy/houseValues';
export { type Field, type OtherFigure, type SheetSection, type StepKind, type Value } from './strategy/kind';
export { levelHouse } from './strategy/levelRoughing/fields';
export { sideStepFor } from './passes/scallop';
export { kindOf, STEP_KINDS } from './strategy/registry';
export { outlineBlank, planOf, standardBlock, upToMicron } from './job/blocks';
export { withBodies } from './job/bodies';
export { type Beginning, FIRST_SETUP, newJob } from './job/newJob';
export { type BoundHeight, type BoundHeights, offsetOf, withBound } from './job/boundHeights';
export { MovedPlaces } from './survey/movedPlaces';
export { followBound, type FollowedBound, type Lying, placeOf } from './job/followBound';
export { assemblySymbols, type RelationProblem, relationProblems, withRelations } from './job/relations';
export { type Bundle, openBundle, packBundle, parseJson } from './job/bundle';
export { type Fixture } from './job/fixtures';
export { type Followed, followFaces } from './job/followFaces';
export { cribFollowing, stepCutting, stepLoad, withFollowingData } from './job/following';
export { type FollowedOutline, followOutlines } from './job/followOutlines';
export { followFacePicks } from './job/followPicks';
export { blockBox, blockInSetup, laidBoxes, type LaidBoxes, sizeDoubt, workZeroPoint } from './job/frame';
export {
  type Blank,
  type Drilled,
  type FaceLimit,
  filesOf,
  isPlanLimit,
  type Job,
  type ModelFile,
  newStep,
  type PlanLimit,
  stepSchema,
  parseJob,
  type Setup,
  type Step,
  type StepLimit,
  stepsOn,
  WORK_OFFSETS,
  type WorkZero,
} from './job/job';
export { type JobFile, flattened, jobFile, jobFileSchema, readJob } from './job/jobFile';
export { meshesOfJob } from './job/meshes';
export { withScale } from './job/scaled';
export { probeSentence, zeroAtPick, zeroOnAxis } from './job/workZero';
export { type PathCache, type Progress } from './evaluate/calculate';
export { type LeftOutPlace, placesLeftOut, type StepFigures } from './evaluate/findings';
export { type CutterRow } from './evaluate/nextCutters';
export { clearShare, type LengthsByNeed } from './check/reachAlong';
export { MISSED_SHARE } from './check/ridges';
export { NOT_CUT, OUT_OF_REACH } from './check/ridgeField';
export { type Rival, type Rivals } from './evaluate/rivals';
export { carriedValues, isCarried } from './strategy/carriedValues';
export { type LoadFigure, type LoadFigures } from './evaluate/loadFigure';
export { type RidgeField } from './evaluate/ridgeLens';
export { type StandOut } from './evaluate/standOut';
export { HOUSE_BODY_ROOM } from './tool/shape';
export { SLOW_SHARE } from './field/fit';
export { NO_CONTACT } from './check/contactSpeed';
export { type ExpectedStep } from './evaluate/expected';
export { type FinisherRow, type Finishers, type PatternRow } from './evaluate/finishers';
export { Piece, type PieceMeshes } from './evaluate/piece';
export { type StepResult } from './evaluate/result';
export { Session } from './evaluate/session';
export { surveyTask, TASKS } from './evaluate/tasks';
export { calculateJob } from './evaluate/whole';
export { POSTS } from './post/definition';
export { release, type Release } from './release/release';
export { jobReport, toolList } from './release/report';
export { type Verdict } from './release/verdicts';
export {
  groupsOf,
  type HoleGroup,
  type HolePurpose,
  proposeHoles,
  PURPOSE_WORDS,
  purposesFor,
} from './proposals/holes';
export { type Found, foundOn, type MilledPart, proposeEdges, proposeMilling } from './proposals/milling';
export { cuttersFor, type Proposal, type ProposedStep, withCutter } from './proposals/step';
