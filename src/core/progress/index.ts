export { progressMake, progressOf } from './progress.js';
export type { Deed, GoalStanding, Progress, TrackStanding } from './progress.js';
