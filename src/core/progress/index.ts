export { countProblem, moneyMoved } from './counting.js';
export type { Deed } from './counting.js';
export { progressEnds, progressMake, progressOf, trackAt, rewardLuck, teamGoalsOf } from './progress.js';
export type { GoalStanding, Progress, TrackStanding } from './progress.js';
