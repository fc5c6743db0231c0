export { simulationCompare } from './compare.js';
export type { Comparison, Difference } from './compare.js';
export { simulateReference } from './reference.js';
export type { SimulateOptions, Simulator } from './reference.js';
export type { SimulationResult } from './result.js';
export { overridesApply, scenarioResolve } from './scenario.js';
export type { RunSetup, ScenarioOptions } from './scenario.js';
export { meanWithInterval, percentile, survivalEstimate } from './statistics.js';
