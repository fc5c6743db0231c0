export { avoidPossible, periodRecords } from './draw.js';
export { isDrawn, isOnShow, offerShownNextMs, ruleShown, shelfShown, shownUntilMs } from './rotation.js';
export type { OnShow } from './rotation.js';
