export { nearestName, pointerOf, pointerSegments } from './issue.js';
export type { Issue, IssueCode, Mend, Place, Result } from './issue.js';
