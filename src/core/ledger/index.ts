export {
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
export type { Account, LedgerFault, Movement } from './ledger.js';
