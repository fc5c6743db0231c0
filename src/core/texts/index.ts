export { goalWords, progressSentence, trackWords } from './progress.js';
export { amountName, amountText, basketText, economyLabels, moneyText, priceText } from './amounts.js';
export type { AssetLabels } from './amounts.js';
export {
  amountWords,
  askText,
  basketWords,
  goalTexts,
  languageShown,
  offerWords,
  priceWords,
  refusalText,
  shopName,
  textFind,
  thanksText,
  trackTexts,
} from './playerWords.js';
export { caseLines } from './rehearsed.js';
export { keptOutTold } from './keptOut.js';
export type { KeptOutTold } from './keptOut.js';
export { instantText, reasonSentence, verdictExplain } from './sentence.js';
export type { Explained, ExplainedVerdict } from './sentence.js';
