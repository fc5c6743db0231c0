export { leverAt, leverIssues, leverNearest, leverNow, leverOf, leverSteps, leversNamed, leversSet } from './levers.js';
export type { Lever, LeverSetting } from './levers.js';
