export {
  HOLDERS,
  holdingsAdd,
  isHolder,
  isPlayerAccount,
  ledgerBalances,
  ledgerVerify,
  offerAsset,
  playerAccount,
  shopAccount,
  stockAccount,
  teamAccount,
  tillAccount,
  worldAccount,
} from './ledger.js';
export type { Account, Holdings, LedgerFault, Movement } from './ledger.js';
