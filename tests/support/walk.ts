/**
 * A walk through a market by the live rules: buying, selling, using and opening at random, with more than enough of
 * everything. Where some of it leaves the walker with no less of anything and more of something, it is done again: what
 * gains each time is a way to gain without end.
 */
import fc from 'fast-check';
import { economyAudit } from '../../src/core/audit/index.js';
import { economyLoad } from '../../src/core/economy/index.js';
import type { Economy } from '../../src/core/economy/index.js';
import { playerHolds, playerMadeUp } from '../../src/core/player/index.js';
import type { Player } from '../../src/core/player/index.js';
import { streamOf, keyOf } from '../../src/core/random/index.js';
import { ACTS, UNTOUCHED, purchaseApply, purchaseCheck, sharedWith } from '../../src/core/trade/index.js';
import type { ActKind, Shared } from '../../src/core/trade/index.js';
import { NOW } from './economy.js';
import { market } from './market.js';

type Step = { kind: 'buy'; offer: string; pay: string } | { kind: ActKind; item: string; shop: string };
interface At {
  player: Player;
  shared: Shared;
}

/** What speaks of gains without end, or of what is paid and not given. */
const UNSOUND = [
  'money-loop',
  'money-loop-by-chance',
  'goal-pays-more',
  'use-without-end',
  'gives-nothing',
  'buyback-at-cost',
];
const STEPS = 160;
/** So often a gain is made again before it is taken to be without end: more often than any limit allows. */
const AGAIN = 6;

/** Undefined where the audit has something against it. */
function soundEconomy(yaml: string): Economy | undefined {
  const loaded = economyLoad([{ path: 'market.yaml', text: `name: Market\ntimeZone: UTC\n${yaml}` }]);
  if (!loaded.economy || loaded.issues.length > 0) throw new Error(JSON.stringify(loaded.issues));
  const found = economyAudit(loaded.document!);
  return found.some(({ code }) => UNSOUND.includes(code)) ? undefined : loaded.economy;
}

const stepsOf = ({ offers, items, shops }: Economy): Step[] => [
  ...[...offers.values()].flatMap(({ id, prices = [] }): Step[] =>
    prices.map(({ pay }) => ({ kind: 'buy', offer: id, pay })),
  ),
  ...[...items.keys()].flatMap((item): Step[] => [
    ...[...shops.keys()].map((shop): Step => ({ kind: 'sell', item, shop })),
    { kind: 'use', item, shop: '' },
    { kind: 'open', item, shop: '' },
  ]),
];

/** Undefined where it is refused, which changes nothing. */
function done(economy: Economy, { player, shared }: At, step: Step): At | undefined {
  if (step.kind === 'buy') {
    const verdict = purchaseCheck(economy, player, shared, { offer: step.offer, pay: step.pay }, NOW);
    if (!verdict.allowed) return undefined;
    const bought = purchaseApply(economy, player, shared, verdict);
    return { player: bought.player, shared: sharedWith(shared, bought.shared) };
  }
  const act = ACTS[step.kind];
  const verdict = act.check(economy, player, shared, { item: step.item, shop: step.shop }, NOW);
  if (!verdict.allowed) return undefined;
  const acted = act.apply(economy, player, shared, verdict);
  return { player: acted.player, shared: sharedWith(shared, acted.shared) };
}

const holdings = (economy: Economy, player: Player): number[] =>
  [...economy.currencies.keys(), ...economy.items.keys()].map((asset) => playerHolds(economy, player, asset));

const gains = (before: readonly number[], after: readonly number[]): boolean =>
  after.every((units, at) => units >= before[at]!) && after.some((units, at) => units > before[at]!);

/** The steps that gain each time they are done again; undefined where the walk finds none. */
function endlessGain(economy: Economy, seed: number): Step[] | undefined {
  const random = streamOf(keyOf(seed, 'walk'));
  const steps = stepsOf(economy);
  const holds = Object.fromEntries([...economy.currencies.keys()].map((id) => [id, 300]));
  let at: At = { player: playerMadeUp(economy, { holds }, NOW), shared: UNTOUCHED };
  const path: Step[] = [];
  const seen = [holdings(economy, at.player)];
  for (let tries = 0; tries < STEPS; tries++) {
    const step = steps[Math.floor(random() * steps.length)]!;
    const next = done(economy, at, step);
    if (!next) continue;
    at = next;
    path.push(step);
    const now = holdings(economy, at.player);
    const from = seen.findLastIndex((before) => gains(before, now));
    if (from >= 0 && isEndless(economy, at, path.slice(from))) return path.slice(from);
    seen.push(now);
  }
  return undefined;
}

function isEndless(economy: Economy, start: At, steps: readonly Step[]): boolean {
  let at = start;
  for (let round = 0; round < AGAIN; round++) {
    const before = holdings(economy, at.player);
    for (const step of steps) {
      const next = done(economy, at, step);
      if (!next) return false;
      at = next;
    }
    if (!gains(before, holdings(economy, at.player))) return false;
  }
  return true;
}

/** Walks `count` markets; what gained without end, by market, and how many of them were sound. */
export function walkMarkets(count: number, seed: number): { sound: number; gained: string[] } {
  let sound = 0;
  const gained: string[] = [];
  for (const [index, yaml] of fc.sample(market, { numRuns: count, seed }).entries()) {
    const economy = soundEconomy(yaml);
    if (!economy) continue;
    sound++;
    const steps = endlessGain(economy, seed + index);
    if (steps) gained.push(`market ${index} of seed ${seed}: ${JSON.stringify(steps)}\n${yaml}`);
  }
  return { sound, gained };
}
