export { ledgerBalances, ledgerVerify, playerAccount, shopAccount, worldAccount } from './ledger.js';
export type { Account, LedgerFault, Movement } from './ledger.js';
