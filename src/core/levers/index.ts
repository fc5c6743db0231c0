export { leverAt, leverIssues, leverNearest, leverNow, leverOf, leverSteps, leversNamed, leversSet } from './levers.js';
export type { Lever, LeverSetting } from './levers.js';
export { leversOffered } from './offered.js';
export type { LeverOffered } from './offered.js';
