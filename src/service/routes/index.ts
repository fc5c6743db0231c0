import type { Route } from '../route.js';
import { actRoutes, actSchemas } from './act.js';
import { catalogRoutes } from './catalog.js';
import { draftRoutes } from './draft.js';
import { playerRoutes, playerSchemas } from './player.js';
import { releaseRoutes } from './release.js';
import { runRoutes } from './run.js';
import { sessionRoutes } from './session.js';
import { timeRoutes } from './time.js';
import { tradeRoutes, tradeSchemas } from './trade.js';

/** Every route under /api/v1, in the order of openapi.json. */
export const ROUTES: readonly Route[] = [
  ...draftRoutes,
  ...catalogRoutes,
  ...releaseRoutes,
  ...timeRoutes,
  ...tradeRoutes,
  ...actRoutes,
  ...playerRoutes,
  ...runRoutes,
  ...sessionRoutes,
];
export const BODY_SCHEMAS = { ...tradeSchemas, ...actSchemas, ...playerSchemas };
