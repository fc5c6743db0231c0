import type { Handlers } from '../handler.js';
import { catalogHandlers } from './catalog.js';
import { draftHandlers } from './draft.js';
import { playerHandlers } from './player.js';
import { releaseHandlers } from './release.js';
import { runHandlers } from './run.js';
import { sessionHandlers } from './session.js';
import { teamHandlers } from './team.js';
import { timeHandlers } from './time.js';
import { tradeHandlers } from './trade.js';

/** What every operation of the contract does; the type refuses to forget one. */
export const HANDLERS: Handlers = {
  ...draftHandlers,
  ...catalogHandlers,
  ...releaseHandlers,
  ...timeHandlers,
  ...tradeHandlers,
  ...playerHandlers,
  ...teamHandlers,
  ...runHandlers,
  ...sessionHandlers,
};
