/**
 * Double entry: every movement takes from one account what it gives to another, so that all movements of an
 * asset sum to zero and every balance is the sum of its movements.
 */
import type { Units } from '../amount/index.js';

/**
 * `player:ID`, `till:SHOP`, `stock:OFFER`: what these hold is on record and never below zero. `shop:ID`, where things
 * and money without end come from, and `world:REASON`, for what enters or leaves the game, may owe.
 */
export type Account = `${Holder}:${string}` | `shop:${string}` | `world:${string}`;

/** Accounts whose holdings are kept beside the ledger, and must agree with it. */
const HOLDERS = ['player', 'till', 'stock'] as const;
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
export const tillAccount = (shop: string): Account => `till:${shop}`;
export const stockAccount = (offer: string): Account => `stock:${offer}`;
/** What the ledger counts shared stock in. */
export const offerAsset = (offer: string): string => `offer:${offer}`;
export const shopAccount = (shop: string): Account => `shop:${shop}`;
export const worldAccount = (reason: string): Account => `world:${reason}`;

/** Account to asset to what the movements leave there. Over all accounts each asset sums to zero. */
export function ledgerBalances(movements: Iterable<Movement>): Map<string, Map<string, number>> {
  const balances = new Map<string, Map<string, number>>();
  const add = (account: string, asset: string, units: number) => {
    let assets = balances.get(account);
    if (!assets) balances.set(account, (assets = new Map()));
    assets.set(asset, (assets.get(asset) ?? 0) + units);
  };
  for (const { asset, units, from, to } of movements) {
    add(from, asset, -units);
    add(to, asset, units);
  }
  return balances;
}

export interface LedgerFault {
  account: string;
  asset: string;
  held: number;
  moved: number;
  message: string;
}

/** What is on record as held (`held`: account to asset to units) against what the movements say; no fault means they agree exactly. */
export function ledgerVerify(
  movements: Iterable<Movement>,
  held: ReadonlyMap<string, ReadonlyMap<string, number>>,
): LedgerFault[] {
  const moved = ledgerBalances(movements);
  const faults: LedgerFault[] = [];
  const accounts = new Set([...held.keys(), ...[...moved.keys()].filter(isHolder)]);
  for (const account of accounts) {
    const assets = new Set([...(held.get(account)?.keys() ?? []), ...(moved.get(account)?.keys() ?? [])]);
    for (const asset of assets) {
      const has = held.get(account)?.get(asset) ?? 0;
      const says = moved.get(account)?.get(asset) ?? 0;
      if (has !== says || has < 0)
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

const isHolder = (account: string): boolean => HOLDERS.some((holder) => account.startsWith(`${holder}:`));
