export { nearestName, pointerOf, pointerSegments } from './issue.js';
export type { Issue, IssueCode, Place, Result } from './issue.js';
