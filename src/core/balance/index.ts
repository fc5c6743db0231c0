export { sensitivity } from './sensitivity.js';
export type { Effect, SensitivityAsked, SensitivityResult } from './sensitivity.js';
export { tune } from './tune.js';
export type { LeverMoved, TuneAnswer, TuneAsked, TuneProgress, TuneResult } from './tune.js';
export type { Play } from './trials.js';
