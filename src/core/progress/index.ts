export { countProblem, progressEnds, progressMake, progressOf, rewardLuck } from './progress.js';
export type { Deed, GoalStanding, Progress, TrackStanding } from './progress.js';
