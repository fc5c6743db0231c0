export { countText } from './count.js';
export { MOST_PROBLEMS, issuesTold, moreProblems, nearestName, pointerOf, pointerSegments } from './issue.js';
export type { Issue, Mend, Place, Result } from './issue.js';
