export { FitProblem, fitPersonas } from './fit.js';
export type { FitAsked, FitFigure, FitResult, GroupFitted } from './fit.js';
export { apartWords, drawRows, figureRows, fitThings, heldWords } from './report.js';
export type { FigureRow } from './report.js';
