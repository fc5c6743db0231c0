/**
 * Goals and levels that pay for what a player does: doing it as often as one of them asks for, with all that they give
 * together. So a reward that sells back, swaps or is drawn for more than the way to it costs is a circle like any other.
 */
import type { Basket, Units } from '../amount/index.js';
import { quoteMake } from '../trade/index.js';
import type { Economy, Goal, Offer, PriceChoice, UseEffect } from '../economy/index.js';
import type { Scope, Value } from '../formula/index.js';
import { boxOdds } from '../loot/index.js';
import { basketArrivals } from '../player/index.js';
import type { Conversion } from './conversion.js';
import { spread } from './values.js';

/** What is done once: a purchase, or using or opening a thing. */
export interface Doing {
  /** What is bought; undefined where nothing is. */
  offer: Offer | undefined;
  cost: Readonly<Basket>;
  /** What comes, bundles unpacked; of luck what comes on average. */
  arrived: Readonly<Record<string, number>>;
  /** Of what comes that which is earned. */
  earned: Readonly<Record<string, number>>;
  /** Attributes that it sets. */
  sets: UseEffect['set'];
}

/** For so many different numbers of times at most is asked what they pay. */
const MOST_COUNTS = 8;
/** Attributes are set so often at most. */
const MOST_SET = 20;

/** A conversion done as often as some goal or level asks for, with what they pay; none where nothing pays for it. */
export function rewardConversions(
  economy: Economy,
  conversion: Conversion,
  doing: Doing,
  newPlayer: Scope,
): Conversion[] {
  if (economy.goals.size + economy.tracks.size + economy.teamGoals.size === 0) return [];
  const free = rewardsOf(economy, doing, 0, newPlayer);
  const counts = [...new Set(countsAsked(economy, doing, newPlayer))].sort((a, b) => a - b);
  return spread(counts, MOST_COUNTS).flatMap((times): Conversion[] => {
    if (times > mostTimes(doing.offer)) return [];
    const rewards = rewardsOf(economy, doing, times, newPlayer).filter(({ pointer }) =>
      free.every((one) => one.pointer !== pointer),
    );
    if (rewards.every(({ gives }) => Object.keys(gives).length === 0)) return [];
    const gives = [
      ...conversion.gives.map(([asset, units]) => [asset, units * times] as const),
      ...rewards.flatMap((reward) => Object.entries(reward.gives)),
    ];
    return [
      {
        ...conversion,
        words: `${times === 1 ? '' : `${times} times: `}${conversion.words}, which reaches ${rewards.map(({ name }) => name).join(' and ')}`,
        takes: takesOf(economy, conversion, doing, times, newPlayer),
        gives: summed(gives),
        limits: [...conversion.limits, ...rewards.map(({ limit }) => limit)],
        chance: conversion.chance || rewards.some(({ chance }) => chance),
        rewards: rewards.map(({ pointer }) => pointer),
      },
    ];
  });
}

/** Buying one of each of so many different things as a goal asks for, the cheapest by each currency. */
export function differentConversions(
  economy: Economy,
  purchases: readonly Conversion[],
  newPlayer: Scope,
): Conversion[] {
  const plain = purchases.filter(({ rewards, takes }) => rewards.length === 0 && takes.length === 1);
  return [...economy.goals.values()].flatMap(({ counts, target }) => {
    if (counts.kind !== 'owned' || !counts.distinct || target < 2) return [];
    const cheapest = new Map<string, Map<string, Conversion>>();
    for (const one of plain)
      for (const [asset] of one.gives) {
        if (!counts.items.has(asset)) continue;
        const [currency, units] = one.takes[0]!;
        const items = cheapest.get(currency) ?? new Map<string, Conversion>();
        cheapest.set(currency, items);
        if (units < (items.get(asset)?.takes[0]![1] ?? Infinity)) items.set(asset, one);
      }
    return [...cheapest].flatMap(([currency, items]) => {
      const bought = [...items.values()].sort((a, b) => a.takes[0]![1] - b.takes[0]![1]).slice(0, Math.ceil(target));
      if (bought.length < target) return [];
      const gives = summed(bought.flatMap((one) => one.gives));
      const cost = bought.reduce((sum, { takes }) => sum + takes[0]![1], 0);
      const together: Conversion = {
        ...bought[0]!,
        words: bought.map(({ words }) => words).join(' and '),
        takes: [[currency, cost]],
        gives,
        limits: bought.flatMap(({ limits }) => limits),
        opens: bought.flatMap(({ opens }) => opens),
      };
      const arrived = Object.fromEntries(gives);
      const doing: Doing = { offer: undefined, cost: { [currency]: cost }, arrived, earned: {}, sets: [] };
      return rewardConversions(economy, together, doing, newPlayer);
    });
  });
}

/** Amounts by asset, each asset once. */
export function summed(amounts: readonly (readonly [string, number])[]): [string, number][] {
  const sums = new Map<string, number>();
  for (const [asset, units] of amounts) sums.set(asset, (sums.get(asset) ?? 0) + units);
  return [...sums];
}

const mostTimes = (offer: Offer | undefined): number =>
  Math.min(...(offer?.limits ?? []).filter(({ period }) => period === 'lifetime').map(({ most }) => most), Infinity);

/** Several times cost what they do one after another: a price that looks back is worked out for a new player. */
function takesOf(
  economy: Economy,
  { takes }: Conversion,
  { offer, cost }: Doing,
  times: number,
  newPlayer: Scope,
): [string, number][] {
  const choice = offer?.prices?.find(
    (price): price is Extract<PriceChoice, { kind: 'assets' }> =>
      price.kind === 'assets' && Object.keys(cost).every((asset) => price.basket.some((one) => one.asset === asset)),
  );
  const looksBack = choice?.basket.some((one) => one.kind === 'formula' && one.formula.references.length > 0);
  if (offer && choice && looksBack) {
    const quoted = quoteMake(economy, { ...offer, sales: [] }, choice, times, newPlayer, 0);
    if (quoted.ok) return Object.entries(quoted.quote.total);
  }
  return takes.map(([asset, units]) => [asset, units * times]);
}

/** After how many times something more is reached. */
function countsAsked(economy: Economy, doing: Doing, newPlayer: Scope): number[] {
  const counts = [...economy.goals.values(), ...economy.teamGoals.values()].flatMap((goal) => {
    const each = countEach(goal, doing);
    return each > 0 ? [openAfter(economy, goal, doing) + Math.ceil(goal.target / each)] : [];
  });
  for (const { currency, levels } of economy.tracks.values()) {
    const each = doing.earned[currency] ?? 0;
    if (each > 0) counts.push(...levels.map(({ from }) => Math.ceil(from / each)));
  }
  for (const { attribute } of doing.sets)
    for (const { counts: counted, target } of economy.goals.values())
      if (counted.kind === 'attribute' && counted.attribute === attribute)
        for (let times = 1; times <= MOST_SET; times++)
          if (Number(setAfter(doing, times, newPlayer).get(attribute)) >= target) {
            counts.push(times);
            break;
          }
  return counts.filter((count) => count >= 1 && Number.isFinite(count));
}

/** What one time counts towards a goal. */
function countEach({ counts }: Goal, { offer, cost, arrived, earned }: Doing): number {
  switch (counts.kind) {
    case 'purchases':
      return offer && counts.offers.has(offer.id) ? 1 : 0;
    case 'spent':
      return cost[counts.currency] ?? 0;
    case 'earned':
      return earned[counts.currency] ?? 0;
    case 'owned': {
      const items = Object.keys(arrived).filter((asset) => counts.items.has(asset));
      return counts.distinct ? items.length : items.reduce((sum, item) => sum + arrived[item]!, 0);
    }
    default:
      return 0;
  }
}

/**
 * After how many times a goal begins to count, where it waits for others. Those that this brings no nearer may have been
 * reached by other means.
 */
function openAfter({ goals, teamGoals }: Economy, goal: Goal, doing: Doing): number {
  let times = 0;
  const seen = new Set<Goal>();
  for (let one: Goal | undefined = goal; one?.after !== undefined && !seen.has(one);) {
    seen.add(one);
    one = goals.get(one.after) ?? teamGoals.get(one.after);
    const each = one ? countEach(one, doing) : 0;
    if (each === 0) break;
    times += Math.ceil(one!.target / each);
  }
  // Those that wait for each other in a circle never begin.
  return times;
}

function setAfter({ sets }: Doing, times: number, newPlayer: Scope): Map<string, Value> {
  const values = new Map<string, Value>();
  const scope = { ...newPlayer, name: (name: string) => values.get(name) ?? newPlayer.name(name) };
  for (let time = 0; time < Math.min(times, MOST_SET); time++)
    for (const { attribute, to } of sets) values.set(attribute, typeof to === 'object' ? to.run(scope) : to);
  return values;
}

interface Reward {
  pointer: string;
  name: string;
  /** How often it can be had, in words. */
  limit: string;
  gives: Readonly<Record<string, number>>;
  chance: boolean;
}

/** All that is reached by doing it so often, each once; what one reward brings may reach another. */
function rewardsOf(economy: Economy, doing: Doing, times: number, newPlayer: Scope): Reward[] {
  const reached = new Map<string, Reward>();
  const earned = new Map<string, Units>();
  const owned = new Map<string, number>();
  const attributes = setAfter(doing, times, newPlayer);
  const add = (sums: Map<string, number>, basket: Readonly<Record<string, number>>, by: number): void => {
    for (const asset in basket) sums.set(asset, (sums.get(asset) ?? 0) + basket[asset]! * by);
  };
  add(earned, doing.earned, times);
  add(owned, doing.arrived, times);
  const take = (pointer: string, reward: Omit<Reward, 'pointer'>): void => {
    reached.set(pointer, { pointer, ...reward });
    add(earned, reward.gives, 1);
    add(owned, reward.gives, 1);
  };
  for (let before = -1; before !== reached.size;) {
    before = reached.size;
    for (const goal of [...economy.goals.values(), ...economy.teamGoals.values()]) {
      const pointer = `/goals/${goal.id}`;
      if (reached.has(pointer) || standing(goal) < goal.target) continue;
      take(pointer, {
        name: goal.name,
        limit: `${goal.name}: ${goal.period.span.kind === 'lifetime' ? 'once' : 'once in each of its periods'}`,
        ...given(economy, goal, newPlayer),
      });
      for (const [name, value] of goal.sets) attributes.set(name, value);
    }
    for (const { id, name, currency, attribute, levels } of economy.tracks.values())
      for (const { level, from, gives } of levels) {
        const pointer = `/tracks/${id}/levels/${level}`;
        if (reached.has(pointer) || (earned.get(currency) ?? 0) < from) continue;
        take(pointer, {
          name: `${name} ${level}`,
          limit: `${name} ${level}: once`,
          gives: basketArrivals(economy, gives),
          chance: false,
        });
        attributes.set(attribute, level);
      }
  }
  return [...reached.values()];

  function standing(goal: Goal): number {
    const { counts } = goal;
    switch (counts.kind) {
      case 'earned':
        return (earned.get(counts.currency) ?? 0) - countEach(goal, doing) * openAfter(economy, goal, doing);
      case 'owned': {
        const items = [...counts.items].filter((item) => (owned.get(item) ?? 0) > 0);
        return counts.distinct ? items.length : items.reduce((sum, item) => sum + owned.get(item)!, 0);
      }
      case 'attribute':
        return Number(attributes.get(counts.attribute) ?? newPlayer.name(counts.attribute));
      default:
        return countEach(goal, doing) * (times - openAfter(economy, goal, doing));
    }
  }
}

/** What a goal gives, of its table what it draws on average. */
function given(economy: Economy, { id, name, gives, loot }: Goal, scope: Scope): Pick<Reward, 'gives' | 'chance'> {
  if (loot === undefined) return { gives: basketArrivals(economy, gives), chance: false };
  const { assets } = boxOdds(economy, { id, name, gives, loot }, scope);
  return {
    gives: Object.fromEntries(assets.map(({ asset, longRunExpected }) => [asset, longRunExpected])),
    chance: true,
  };
}
