/**
 * Double entry: every movement takes from one account what it gives to another, so that all movements of an
 * asset sum to zero and every balance is the sum of its movements.
 */
import type { Units } from '../amount/index.js';

/**
 * `player:ID`, `team:ID`, `till:SHOP`, `stock:OFFER`: what these hold is on record and never below zero. `shop:ID`, where things
 * and money without end come from, and `world:REASON`, for what enters or leaves the game, may owe.
 */
export type Account = `${Holder}:${string}` | `shop:${string}` | `world:${string}`;

/** Accounts whose holdings are kept beside the ledger, and must agree with it. */
export const HOLDERS = ['player', 'team', 'till', 'stock'] as const;
type Holder = (typeof HOLDERS)[number];

export interface Movement {
  /** A currency or an item; `offer:ID` counts what is left of an offer's stock, in purchases. */
  asset: string;
  /** Above 0. */
  units: Units;
  from: Account;
  to: Account;
  /** Why, as `kind:id`, such as `purchase:storm_frame`. */
  cause: string;
}

/** The account that holds what a player has. */
export const playerAccount = (player: string): Account => `player:${player}`;
/** The account that holds what a team has together. */
export const teamAccount = (team: string): Account => `team:${team}`;
export const tillAccount = (shop: string): Account => `till:${shop}`;
export const stockAccount = (offer: string): Account => `stock:${offer}`;
/** What the ledger counts shared stock in. */
export const offerAsset = (offer: string): string => `offer:${offer}`;
export const shopAccount = (shop: string): Account => `shop:${shop}`;
export const worldAccount = (reason: string): Account => `world:${reason}`;

/** Account to asset to units, exact however large: what flows through an account in its life can pass any ceiling of a balance. */
export type Holdings = Map<string, Map<string, bigint>>;

export function holdingsAdd(holdings: Holdings, account: string, asset: string, units: bigint): void {
  let assets = holdings.get(account);
  if (!assets) holdings.set(account, (assets = new Map()));
  assets.set(asset, (assets.get(asset) ?? 0n) + units);
}

/** What the movements leave in each account. Over all accounts each asset sums to zero. */
export function ledgerBalances(movements: Iterable<Movement>): Holdings {
  const balances: Holdings = new Map();
  for (const { asset, units, from, to } of movements) {
    holdingsAdd(balances, from, asset, -BigInt(units));
    holdingsAdd(balances, to, asset, BigInt(units));
  }
  return balances;
}

export interface LedgerFault {
  account: string;
  asset: string;
  held: bigint;
  moved: bigint;
  message: string;
}

/** What is on record as held (`held`: account to asset to units) against what the movements say; no fault means they agree exactly. */
export function ledgerVerify(
  movements: Iterable<Movement>,
  held: ReadonlyMap<string, ReadonlyMap<string, bigint | number>>,
): LedgerFault[] {
  const moved = ledgerBalances(movements);
  const faults: LedgerFault[] = [];
  const accounts = new Set([...held.keys(), ...[...moved.keys()].filter(isHolder)]);
  for (const account of accounts) {
    const assets = new Set([...(held.get(account)?.keys() ?? []), ...(moved.get(account)?.keys() ?? [])]);
    for (const asset of assets) {
      const has = BigInt(held.get(account)?.get(asset) ?? 0);
      const says = moved.get(account)?.get(asset) ?? 0n;
      if (has !== says || has < 0n)
        faults.push({
          account,
          asset,
          held: has,
          moved: says,
          message: `${account} holds ${has} ${asset}; its movements sum to ${says}`,
        });
    }
  }
  return faults;
}

export const isPlayerAccount = (account: Account): boolean => account.startsWith('player:');

/** Whether what an account holds is on record. */
export const isHolder = (account: string): boolean => HOLDERS.some((holder) => account.startsWith(`${holder}:`));
