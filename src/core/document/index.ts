export { documentChanges, documentPatch, pointerWords, reordered, valueAt } from './changes.js';
export type { Change } from './changes.js';
export { economyJsonSchema } from './jsonSchema.js';
export { SECTIONS } from './schema.js';
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
export { isMoney } from './schemaPrice.js';
export type { BasketDocument, MoneyDocument } from './schemaPrice.js';
export { BUILT_IN, documentTexts, textArguments } from './textKeys.js';
export type { BuiltInKey } from './textKeys.js';
export { THING_KINDS, documentUses, thingsAt, usesOf } from './uses.js';
export type { ThingKind, Use } from './uses.js';
export { documentValidate } from './validate.js';
