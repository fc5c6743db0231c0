export { economyCompile, issueBlocksSaving } from './compile.js';
export { documentChanges, documentPatch, pointerWords, valueAt } from './diff.js';
export type { Change } from './diff.js';
export { BUILT_IN_MESSAGES } from './compileTexts.js';
export { BUILT_IN, documentTexts } from './textKeys.js';
export type { BuiltInKey, TextSlot } from './textKeys.js';
export { beatCompile, documentRotations } from './compileTime.js';
export { economyLoad } from './load.js';
export type { EconomyLoaded } from './load.js';
export { folderRead, folderWrite, MAX_FILE_LENGTH } from './folder.js';
export type { FolderRead, SourceFile } from './folder.js';
export { economyJsonSchema, schemaToJson } from './jsonSchema.js';
export { quantitiesEvaluate } from './quantity.js';
export type { QuantityProblem } from './quantity.js';
export { SECTIONS } from './schema.js';
export { isMoney } from './schemaPrice.js';
export type { BasketDocument, MoneyDocument } from './schemaPrice.js';
export type {
  ActivityDocument,
  DrawDocument,
  EconomyDocument,
  ItemDocument,
  LootDocument,
  OfferDocument,
  PersonaDocument,
  SaleDocument,
  ScenarioDocument,
  ShelfDocument,
  ShopDocument,
} from './schema.js';
export {
  amount,
  basket,
  checked,
  choice,
  durationMs,
  fields,
  id,
  isId,
  mapOf,
  text,
  wholeNumber,
  yesNo,
  anyNumber,
} from './shapes.js';
export type {
  Accrual,
  Buyback,
  Currency,
  EarningRule,
  Economy,
  Item,
  Limit,
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
  Shop,
  Store,
  UseEffect,
} from './types.js';
export { documentValidate, schemaIssues } from './validate.js';
export { amountText, basketText, economyLabels, moneyDecimals, moneyText, priceText } from './text.js';
export type { AssetLabel, AssetLabels } from './text.js';
export type { AnySchema } from './shapes.js';
