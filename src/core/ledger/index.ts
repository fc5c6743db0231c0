export {
  holdingsAdd,
  isPlayerAccount,
  ledgerBalances,
  ledgerVerify,
  offerAsset,
  playerAccount,
  shopAccount,
  stockAccount,
  tillAccount,
  worldAccount,
} from './ledger.js';
export type { Account, Holdings, LedgerFault, Movement } from './ledger.js';
