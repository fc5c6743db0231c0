export { MOST_VARIANTS, simulationCompare } from './compare.js';
export type { Comparison, Difference } from './compare.js';
export { runDay, runWeekday } from './days.js';
export { drawValue } from './draw.js';
export { Block } from './engine/block.js';
export type { BlockDay, BlockEnd, BlockRange } from './engine/block.js';
export { simulateCounts, simulateDays, simulateEngine } from './engine/engine.js';
export type { RunCounts } from './engine/engine.js';
export { memoryNeeded, memoryProblem } from './engine/memory.js';
export { dayOpens, ownStocks, sharedMemory, stocksBetween } from './engine/shared.js';
export type { SharedMemory } from './engine/shared.js';
export { slotsMake } from './engine/slots.js';
export { blocksOf } from './engine/split.js';
export { endsJoined, holdingsJoined } from './holdings.js';
export { ResultMaker } from './maker.js';
export { tallyAdd } from './tally.js';
export { activityPay, activityWays, payScope, personasChoosing } from './pay.js';
export { wayRows } from './payRows.js';
export type { WayRow } from './payRows.js';
export type { Choices, Pay, PlayWay } from './pay.js';
export { simulateReference } from './reference.js';
export {
  MARK_SIGNS,
  MARK_WORDS,
  METRIC_WORDS,
  choicesText,
  dayShown,
  distanceText,
  figureText,
  flowSums,
  markText,
  marksText,
  runDiffersText,
  moneyRows,
  offerSums,
  payRows,
  targetBounds,
  targetDecides,
  targetFigure,
  unplayedTexts,
  targetMissed,
  targetsMissedText,
} from './report.js';
export { OTHER_IN, OTHER_OUT, bandRows, flowDays, payBars, priceRows, shareRow, supplyRows } from './figures.js';
export { resultTables } from './tables.js';
export type { ResultTable } from './tables.js';
export type { FlowSum, OfferSum } from './report.js';
export { RESULT_VERSION } from './result.js';
export type { SimulationResult, TargetRow, Unplayed, UnplayedAct } from './result.js';
export { membersOf, targetLean, targetMeasure, targetOff, targetsJudge, targetsOf } from './targets.js';
export type { TargetFigure } from './targets.js';
export { RunStopped, crowdSize, scenarioResolve } from './scenario.js';
export type { RunSetup, ScenarioOptions } from './scenario.js';
export type { Mean } from './statistics.js';
export {
  Lives,
  meanWithInterval,
  percentile,
  percentileWithInterval,
  ratioWithInterval,
  shareInterval,
  survivalEstimate,
} from './statistics.js';
