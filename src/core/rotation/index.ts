export { avoidPossible } from './draw.js';
export { offerShownNextMs, rotationInForce, rotationShown, shelfShown } from './rotation.js';
export type { Shown } from './rotation.js';
