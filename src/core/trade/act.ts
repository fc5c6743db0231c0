/** What a player does with what they hold: selling back, using, opening and collecting all answer in one shape. */
import { basketEquals, basketHolds } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import { ITEM_ACT_NAMES, kindDoes } from '../document/index.js';
import type { ItemAct } from '../document/index.js';
import type { Economy, Item } from '../economy/index.js';
import type { Value } from '../formula/index.js';
import { nearestName } from '../issue/index.js';
import type { Movement } from '../ledger/index.js';
import { progressMake } from '../progress/index.js';
import type { Progress } from '../progress/index.js';
import { playerHolds, playerSettle, playerSpendable } from '../player/index.js';
import type { Player } from '../player/index.js';
import { anyText, yesNo } from '../schema/index.js';
import { count, nearest, units } from './reasonBlocks.js';
import type { ReasonTable, ReasonsOf } from './reasonBlocks.js';
import type { Shared } from './shared.js';
import { MAX_TIMES } from './verdict.js';
import { promisesKept } from './promise.js';
import type { PurchaseReason } from './rules.js';

export const ACT_REASONS = {
  'unknown-item': { item: anyText(), nearest: nearest() },
  'not-held': { item: anyText(), held: units(), wanted: count(), begun: yesNo() },
} as const satisfies ReasonTable;
/** Some reasons against purchases hold against acts too. */
export type ActReason = ReasonsOf<typeof ACT_REASONS> | PurchaseReason;

/** Everything that a player can do with what they hold. */
export const ACT_KINDS = ['sell', ...ITEM_ACT_NAMES] as const;
export type ActKind = (typeof ACT_KINDS)[number];

export interface ActRequest {
  item: string;
  /** How often at once, 1 to `MAX_TIMES`; 1 by default. Collecting takes all there is. */
  times?: number;
  /** Where to sell. */
  shop?: string;
  /** What the player was told that selling pays; refused where it pays less now. */
  expect?: Basket;
}

/** What a check of an act says beside its reasons: what carries it out needs no more. */
export interface ActFacts {
  act: ActKind;
  allowed: boolean;
  item: string;
  name: string;
  shop: string | null;
  times: number;
  atMs: number;
  /** What leaves the player, as whole units. */
  takes: Basket;
  /** What comes for certain; an opening adds what it draws. */
  gives: Basket;
  /** What the player was told, where it pays more. */
  expected?: Basket;
  /** Holdings of everything named above. */
  before: Record<string, number>;
  after: Record<string, number>;
}

/** `R`: the reasons that the act may be refused for. */
export interface ActVerdictOf<R> extends ActFacts {
  reasons: R[];
}

/** What an act did. */
export interface Acted {
  player: Player;
  /** What changed of what all players share. */
  shared: Shared;
  movements: Movement[];
  given: Basket;
  /** What a cap or carry kept out. */
  dropped: Basket;
  /** Attributes as they are now, where using changed them. */
  set: Readonly<Record<string, Value>>;
  /** What it did for goals and levels. */
  progress: Progress[];
}

/** An act that was done, with what it does for goals and levels. */
export function actDone<A extends Omit<Acted, 'progress'>>(
  economy: Economy,
  done: A,
  nowMs: number,
): A & Pick<Acted, 'progress'> {
  const made = progressMake(economy, done.player, { movements: done.movements, set: done.set }, nowMs);
  return { ...done, player: made.player, movements: [...done.movements, ...made.movements], progress: made.progress };
}

/** What every act looks at first. */
export interface ActCase {
  economy: Economy;
  player: Player;
  request: ActRequest;
  item: Item;
  times: number;
  nowMs: number;
}

type Answer<R> = Pick<ActVerdictOf<R | ActReason>, 'reasons' | 'takes' | 'gives'>;

/** An act of the items' kinds: what to say where the kind of a thing does not have it. Anything may be sold. */
export type ActOf<R> = { act: 'sell' } | { act: ItemAct; notDoneWith(item: Item): R };

/** Settles the player, finds the item, checks its kind and the number, and lets `decide` say the rest. */
export function actCheck<R extends { code: string }>(
  of: ActOf<R>,
  economy: Economy,
  player: Player,
  request: ActRequest,
  nowMs: number,
  decide: (facts: ActCase) => Answer<R>,
): ActVerdictOf<R | ActReason> {
  const verdict = actCheckNow(of, economy, player, request, nowMs, decide);
  if (verdict.allowed) return verdict;
  const later = (ms: number) => actCheckNow(of, economy, player, request, ms, decide).reasons;
  return { ...verdict, reasons: promisesKept(verdict.reasons, later) };
}

function actCheckNow<R>(
  of: ActOf<R>,
  economy: Economy,
  player: Player,
  request: ActRequest,
  nowMs: number,
  decide: (facts: ActCase) => Answer<R>,
): ActVerdictOf<R | ActReason> {
  const settled = playerSettle(economy, player, nowMs).player;
  const times = request.times ?? 1;
  const item = economy.items.get(request.item);
  const counted = Number.isSafeInteger(times) && times >= 1 && times <= MAX_TIMES;
  const { reasons, takes, gives } = answer();
  if (!counted) reasons.push({ code: 'too-large', times, most: MAX_TIMES, over: {} });
  const before: Record<string, number> = {};
  const after: Record<string, number> = {};
  for (const basket of [takes, gives])
    for (const asset in basket) before[asset] ??= playerHolds(economy, settled, asset);
  for (const asset in before) after[asset] = before[asset]! - (takes[asset] ?? 0) + (gives[asset] ?? 0);

  function answer(): Answer<R> {
    const nothing = { takes: {}, gives: {} };
    if (!item) {
      const nearest = nearestName(request.item, economy.items.keys()) ?? null;
      return { reasons: [{ code: 'unknown-item', item: request.item, nearest }], ...nothing };
    }
    const facts = { economy, player: settled, request, item, times: counted ? times : 1, nowMs };
    return of.act === 'sell' || kindDoes(item.kind, of.act)
      ? decide(facts)
      : { reasons: [of.notDoneWith(item), ...(of.act === 'collect' ? [] : notHeld(facts))], ...nothing };
  }

  return {
    act: of.act,
    allowed: reasons.length === 0,
    reasons,
    item: request.item,
    name: item?.name ?? request.item,
    shop: request.shop ?? null,
    times,
    atMs: nowMs,
    takes,
    gives,
    ...(paysMore(request.expect, gives) ? { expected: request.expect } : {}),
    before,
    after,
  };
}

/** Whether something comes to more than was told. */
const paysMore = (told: Basket | undefined, pays: Basket): told is Basket =>
  told !== undefined && basketHolds(pays, told) && !basketEquals(told, pays);

/** Where fewer whole units are held than wanted. */
export function notHeld({ economy, player, item, times }: ActCase): ActReason[] {
  const held = playerSpendable(economy, player, item.id);
  const begun = playerHolds(economy, player, item.id) > held;
  return held >= times ? [] : [{ code: 'not-held', item: item.id, held, wanted: times, begun }];
}

export function mustBeAllowed(verdict: ActFacts): void {
  if (!verdict.allowed) throw new Error(`${verdict.act} ${verdict.item} was not allowed`);
}
