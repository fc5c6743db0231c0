export type { Compilation } from './compile.js';
export { economyCompile, economyCompileSteps, issueBlocksSaving } from './compile.js';
export type { Steps } from './reader.js';
export { builtInMessage } from './compileTexts.js';
export { documentShelfRules } from './compileTime.js';
export { economyLoad } from './load.js';
export type { EconomyLoaded } from './load.js';
export { quantitiesEvaluate, quantitiesFixed } from './quantity.js';
export type { QuantityProblem } from './quantity.js';
export type {
  Buyback,
  Currency,
  EarningRule,
  Economy,
  Item,
  LootEntry,
  LootTable,
  Offer,
  PeriodRecord,
  PoolOffer,
  PriceChoice,
  Quantity,
  QuantityBasket,
  Rotation,
  RotationRecord,
  Sale,
  Shelf,
  ShelfRule,
  Shop,
  UseEffect,
} from './types.js';
export { itemTurns } from './turns.js';
export type { Turn } from './turns.js';
export { choiceBasket, fixedUnits, itemOnUse, itemYields, quantityFormula } from './types.js';
export type { Box, Bundle, Consumable } from './types.js';
export { targetLacks } from './compileTargets.js';
export { countKept, countRound, goalLacks } from './compileProgress.js';
export { rankingLacks } from './compileTeams.js';
export type { Activity, DrawRule, Persona, Scenario, SessionBegins, Sessions, Target } from './playTypes.js';
export type { Goal, TrackLevel, RankedBy, Ranking, Share, TeamGoal, TeamKind, Track } from './progressTypes.js';
