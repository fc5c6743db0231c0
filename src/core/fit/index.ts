export { FitProblem, fitPersonas } from './fit.js';
export type { FitAsked, FitFigure, FitResult, GroupFitted } from './fit.js';
