export { documentChanges, documentPatch, pointerWords, reordered } from './changes.js';
export type { Change } from './changes.js';
export { economyFileJsonSchema, economyJsonSchema } from './jsonSchema.js';
export { SECTIONS, WEEKDAYS, economySchema } from './schema.js';
export type {
  ActivityDocument,
  CaseDocument,
  DrawDocument,
  EconomyDocument,
  GoalDocument,
  ItemDocument,
  LeverDocument,
  LootDocument,
  OfferDocument,
  PersonaDocument,
  RankingDocument,
  SaleDocument,
  ScenarioDocument,
  ShelfDocument,
  ShopDocument,
  TargetDocument,
  TrackDocument,
} from './schema.js';
export { ALLOWED, caseSchema, MOST_REPEATED, MOST_STEPS, rehearsalFileSchema, stepsSchema } from './schemaCases.js';
export type { BoundDocument, VerdictDocument } from './schemaCases.js';
export { isMoney } from './schemaPrice.js';
export type { BasketDocument, MoneyDocument } from './schemaPrice.js';
export { BUILT_IN, documentTexts, textArguments } from './textKeys.js';
export type { BuiltInKey } from './textKeys.js';
export {
  THING_KINDS,
  danglingReferences,
  documentReferences,
  referencesFollow,
  placeWords,
  renameMend,
  useOf,
  usesOf,
} from './references.js';
export type { Dangling, Reference, ThingKind, Use } from './references.js';
export { documentRenamed } from './renamed.js';
export type { Renaming } from './renamed.js';
export { overridesApply } from './overrides.js';
export { documentValidate } from './validate.js';
export { isBasketBlock, walkAlong } from './walk.js';
export { valueAt } from './pointers.js';
export { ITEM_ACTS, ITEM_ACT_NAMES, ITEM_KINDS, ITEM_KIND_NAMES, KIND_FIELDS, kindDoes, kindHas } from './itemKinds.js';
export type { ItemAct, ItemKindName, KindField } from './itemKinds.js';
export { COUNTS, COUNT_FIELDS } from './counts.js';
export type { CountField, CountName } from './counts.js';
export { MOST_LEVELS } from './schemaProgress.js';
export { RANKED_BY, RANK_FIELDS } from './rankedBy.js';
export type { RankField } from './rankedBy.js';
export { MEASURES, MEASURE_NAMES, MEASURE_WORDS, TARGET_FIELDS } from './measures.js';
export type { MeasureName, TargetField, TargetUnit } from './measures.js';
