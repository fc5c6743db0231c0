/** Findings about goals and levels: those that nobody reaches, that pay for themselves, or whose reward never arrives. */
import type { Basket } from '../../amount/index.js';
import { COUNTS, COUNT_FIELDS } from '../../document/index.js';
import { choiceBasket, fixedUnits, goalLacks, itemOnUse, itemTurns } from '../../economy/index.js';
import type { Economy, Goal, Offer } from '../../economy/index.js';
import { pointerOf } from '../../issue/index.js';
import { assetMost } from '../../player/index.js';
import { amountText, economyLabels } from '../../texts/index.js';
import { offerIsHidden } from '../finding.js';
import type { AuditInput, AuditRule, RuleFinding } from '../finding.js';

const about = ({ id, name }: { id: string; name: string }) => ({
  pointer: pointerOf(['goals', id]),
  subject: `goal ${name}`,
});

const LACKS: Readonly<Record<string, string>> = {
  offers: 'offers, items, groups or tags',
  items: 'items, groups or tags',
};

export const goalIncomplete: AuditRule = {
  code: 'goal-incomplete',
  severity: 'warning',
  help: 'A goal that lacks what it counts counts nothing; what it does not look at does not help.',
  find: ({ document }) =>
    Object.entries(document.goals ?? {}).flatMap(([id, goal]): RuleFinding[] => {
      const { words, needs, oneOf, may } = COUNTS[goal.counts];
      const known: readonly string[] = [...needs, ...oneOf, ...may];
      const here = about({ id, name: goal.name });
      return [
        ...goalLacks(goal).map((field) => ({
          ...here,
          message: `"${words}" needs ${LACKS[field] ?? `the ${field}`}`,
          fix: 'Fill it in, or let it count something else.',
        })),
        ...COUNT_FIELDS.filter((field) => goal[field] !== undefined && !known.includes(field)).map((field) => ({
          ...here,
          pointer: pointerOf(['goals', id, field]),
          message: `"${words}" does not look at its ${field}`,
          fix: 'Remove it, or let it count something else.',
        })),
      ];
    }),
};

export const goalUnreachable: AuditRule = {
  code: 'goal-unreachable',
  severity: 'warning',
  help: 'A goal that nobody can reach: what it counts does not come, or not as often, or it waits for itself.',
  find: (input) =>
    [...input.economy.goals.values(), ...input.economy.teamGoals.values()].flatMap((goal): RuleFinding[] => {
      const why = waitsForItself(input.economy, goal) ?? ('team' in goal ? undefined : unreachable(input, goal));
      return why === undefined
        ? []
        : [{ ...about(goal), message: why, fix: 'Lower the target, or let it count something else.' }];
    }),
};

function waitsForItself({ goals, teamGoals }: Economy, { id, after }: Goal): string | undefined {
  const seen = new Set([id]);
  for (let next = after; next !== undefined; next = (goals.get(next) ?? teamGoals.get(next))?.after) {
    if (next === id) return 'it waits for itself: each goal of the circle comes after another';
    if (seen.has(next)) return undefined;
    seen.add(next);
  }
  return undefined;
}

function unreachable(input: AuditInput, { counts, target }: Goal): string | undefined {
  const { economy, obtainable } = input;
  switch (counts.kind) {
    case 'events':
      return counts.by === 0 ? 'each event counts 0' : undefined;
    case 'purchases': {
      const offers = [...counts.offers]
        .flatMap((id) => economy.offers.get(id) ?? [])
        .filter((one) => !offerIsHidden(one));
      if (offers.length === 0) return 'no such offer is on show';
      const most = offers.reduce((sum, offer) => sum + mostBought(offer), 0);
      return most < target ? `limits let a player buy ${most} of them, ever` : undefined;
    }
    case 'owned': {
      const items = [...counts.items].filter((id) => obtainable.has(id));
      if (items.length === 0) return 'no such thing can be had';
      const most = counts.distinct ? items.length : items.reduce((sum, id) => sum + assetMost(economy, id), 0);
      return most < target
        ? `${counts.distinct ? `there are ${most} different ones` : `a player may hold ${most}`}, and it wants ${target}`
        : undefined;
    }
    case 'earned':
      return earnable(economy).has(counts.currency) ? undefined : 'nothing that players do pays this currency';
    case 'spent': {
      const asked = [...economy.offers.values()].some(
        (offer) => !offerIsHidden(offer) && pricesOf(offer).some((price) => counts.currency in price),
      );
      return asked ? undefined : 'nothing on show costs this currency';
    }
    case 'attribute': {
      const start = economy.attributes.get(counts.attribute);
      const highest = highestSet(economy, counts.attribute);
      if (typeof start !== 'number') return 'the attribute is no number';
      if (start >= target || highest >= target) return undefined;
      return highest === -Infinity
        ? 'nothing in the economy sets the attribute'
        : `nothing sets the attribute to more than ${highest}`;
    }
  }
}

/** How often a player can ever buy it. */
const mostBought = ({ limits }: Offer): number =>
  Math.min(...limits.filter(({ period }) => period === 'lifetime').map(({ most }) => most), Infinity);

const pricesOf = ({ prices }: Offer): Basket[] =>
  (prices ?? []).map((choice) =>
    Object.fromEntries(choiceBasket(choice).map((one) => [one.asset, fixedUnits(one) ?? 0])),
  );

/** Currencies that come by playing: what rules, rewards, boxes, uses and yields give. */
function earnable(economy: Economy): Set<string> {
  const found = new Set<string>();
  const add = (assets: Iterable<string>): void => {
    for (const asset of assets) found.add(asset);
  };
  for (const { gives } of economy.earning.values()) add(gives.map(({ asset }) => asset));
  for (const { gives } of economy.goals.values()) add(Object.keys(gives));
  for (const { levels } of economy.tracks.values()) for (const { gives } of levels) add(Object.keys(gives));
  for (const table of economy.loot.values())
    for (const { gives } of table.entries) add(gives.map(({ asset }) => asset));
  for (const item of economy.items.values())
    for (const { gives } of itemTurns(item)) add(gives.map(({ asset }) => asset));
  return found;
}

/** The highest value that an attribute is set to; Infinity where a formula says it. */
function highestSet({ items, goals, tracks }: Economy, attribute: string): number {
  let highest = -Infinity;
  const set = (value: unknown): void => {
    if (typeof value === 'number') highest = Math.max(highest, value);
  };
  for (const item of items.values())
    for (const one of itemOnUse(item)?.set ?? [])
      if (one.attribute === attribute) set(typeof one.to === 'object' ? Infinity : one.to);
  for (const goal of goals.values()) set(goal.sets.get(attribute));
  for (const track of tracks.values()) if (track.attribute === attribute) set(track.levels.at(-1)?.level);
  return highest;
}

export const levelCheaper: AuditRule = {
  code: 'level-cheaper',
  severity: 'warning',
  help: 'A level that costs less than the one before: players rush through it.',
  find: ({ economy }) =>
    [...economy.tracks.values()].flatMap(({ id, name, currency, levels }) =>
      levels.flatMap(({ level, costs }, place) => {
        const before = levels[place - 1];
        if (!before || costs >= before.costs) return [];
        const labels = economyLabels(economy);
        return [
          {
            pointer: pointerOf(['tracks', id]),
            subject: `track ${name}`,
            message: `level ${level} costs ${amountText(labels, currency, costs)}, level ${before.level} ${amountText(labels, currency, before.costs)}`,
            fix: 'Let levels cost as much as those before them, or more.',
          },
        ];
      }),
    ),
};

export const rewardKeptOut: AuditRule = {
  code: 'reward-kept-out',
  severity: 'warning',
  help: 'A reward of a goal or level that no cap or carry limit lets in.',
  find: ({ economy }) => {
    const labels = economyLabels(economy);
    const kept = (gives: Basket, where: { pointer: string; subject: string }): RuleFinding[] =>
      Object.entries(gives)
        .filter(([asset, units]) => units > assetMost(economy, asset))
        .map(([asset, units]) => ({
          ...where,
          message: `it gives ${amountText(labels, asset, units)}, and a player may hold ${amountText(labels, asset, assetMost(economy, asset))}`,
          fix: 'Give less, or raise the cap or carry limit.',
        }));
    return [
      ...[...economy.goals.values()].flatMap((goal) => kept(goal.gives, about(goal))),
      ...[...economy.tracks.values()].flatMap(({ id, name, levels }) =>
        levels.flatMap(({ level, gives }) =>
          kept(gives, { pointer: pointerOf(['tracks', id]), subject: `level ${level} of track ${name}` }),
        ),
      ),
    ];
  },
};
