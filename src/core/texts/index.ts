export {
  amountWords,
  askText,
  basketWords,
  offerWords,
  priceWords,
  refusalText,
  shopName,
  textFind,
  thanksText,
} from './texts.js';
