/** Findings about ways to gain without end. */
import { amountText, basketText, economyLabels } from '../../texts/index.js';
import type { Economy } from '../../economy/index.js';
import { pointerOf } from '../../issue/index.js';
import { choicesText } from '../../simulation/index.js';
import { playPay } from '../play.js';
import { conversionsAt, economyConversions } from '../conversions.js';
import type { Conversion } from '../conversion.js';
import { loopsOverTime, moneyLoops } from '../loops.js';
import { economyMoments } from '../moments.js';
import { openingIsBounded } from '../../schedule/index.js';
import type { MoneyLoop } from '../loops.js';
import { buybackTakes, buybackUnit, tillNames } from '../../trade/index.js';
import { cheapestUnits } from '../prices.js';
import type { AuditInput, AuditRule, RuleFinding } from '../finding.js';

/** The circles of all moments, and those that wait between their steps, each told once: where it gains most. */
function economyLoops({ economy, probes }: AuditInput): MoneyLoop[] {
  const conversions = economyConversions(economy, probes);
  const moments = economyMoments(economy);
  const found = new Map<string, MoneyLoop>();
  const plain = conversions.filter(({ rewards }) => rewards.length === 0);
  const all = moments.flatMap((ms) => moneyLoops(conversionsAt(plain, ms)));
  if (conversions.some(({ opens }) => opens.some(openingIsBounded)))
    all.push(...loopsOverTime(plain, Math.min(...moments)));
  // What goals and levels pay is looked for where nothing gains without them: a circle is hidden by a shorter one.
  if (all.length === 0 && plain.length < conversions.length)
    all.push(...moments.flatMap((ms) => loopsPaidFor(conversionsAt(conversions, ms))));
  for (const loop of all) {
    const key = `${loop.asset} ${loop.steps.map(({ pointer, takes }) => `${pointer} ${takes.map(([id]) => id).join()}`).join(' ')}`;
    const known = found.get(key);
    if (!known || loop.gives - loop.takes > known.gives - known.takes) found.set(key, loop);
  }
  return [...found.values()];
}

/** So often is looked again without the rewards that were found to pay too much. */
const MOST_REWARDS = 12;

function loopsPaidFor(conversions: readonly Conversion[]): MoneyLoop[] {
  const found: MoneyLoop[] = [];
  let left = conversions;
  for (let tries = 0; tries < MOST_REWARDS; tries++) {
    const loops = moneyLoops(left);
    if (loops.length === 0) break;
    found.push(...loops);
    const paid = new Set(loops.flatMap(({ steps }) => steps.flatMap(({ rewards }) => rewards)));
    left = left.filter(({ rewards }) => !rewards.some((one) => paid.has(one)));
  }
  return found;
}

const loopsOf = new WeakMap<Economy, MoneyLoop[]>();
/** Several rules read the same search. */
function loops(input: AuditInput): MoneyLoop[] {
  const known = loopsOf.get(input.economy) ?? economyLoops(input);
  loopsOf.set(input.economy, known);
  return known;
}
const isPaidFor = ({ steps }: MoneyLoop): boolean => steps.some(({ rewards }) => rewards.length > 0);

function loopFound({ economy }: AuditInput, { asset, steps, takes, gives, left }: MoneyLoop): RuleFinding {
  const labels = economyLabels(economy);
  const round = (units: number) => amountText(labels, asset, Number(units.toFixed(2)));
  const limits = [...new Set(steps.flatMap((step) => step.limits))];
  const gained = Number((gives - takes).toFixed(2));
  const gain =
    gained > 0
      ? `gains ${round(gained)}`
      : `leaves ${left.map(([id, units]) => amountText(labels, id, Number(units.toFixed(2)))).join(' and ')} for nothing`;
  return {
    pointer: steps[0]!.pointer,
    subject: labels(asset)?.name ?? asset,
    message: `a circle that ${gain} a round, from ${round(takes)}: ${steps.map(({ words }) => words).join(', then ')}; ${limits.length > 0 ? `limited by ${limits.join(', ')}` : 'nothing limits it'}`,
    fix: 'Raise a price, lower what selling back pays, or lower what the things in it give.',
  };
}

export const moneyLoop: AuditRule = {
  code: 'money-loop',
  severity: 'error',
  help: 'A circle of buying, selling back, exchanging, unpacking and using that ends with more than it began with.',
  find: (input) =>
    loops(input)
      .filter((loop) => !isPaidFor(loop) && loop.steps.every(({ chance }) => !chance))
      .map((loop) => loopFound(input, loop)),
};

export const goalPaysMore: AuditRule = {
  code: 'goal-pays-more',
  severity: 'warning',
  help: 'Goals and levels that give more than reaching them costs, once sold back, swapped or opened: again and again where they begin anew.',
  find: (input) => {
    const told = new Set<string>();
    return loops(input)
      .filter(isPaidFor)
      .flatMap((loop) => {
        const [pointer, ...more] = loop.steps.flatMap(({ rewards }) => rewards);
        const key = [pointer, ...more].join();
        if (told.has(key)) return [];
        told.add(key);
        const { message } = loopFound(input, loop);
        const [, section, id] = pointer!.split('/');
        const name = section === 'goals' ? input.document.goals?.[id!]?.name : input.document.tracks?.[id!]?.name;
        return [
          {
            pointer: pointer!,
            subject: `${section === 'goals' ? 'goal' : 'track'} ${name ?? id}`,
            message,
            fix: 'Give less, ask for more, or raise a price.',
          },
        ];
      });
  },
};

export const moneyLoopByChance: AuditRule = {
  code: 'money-loop-by-chance',
  severity: 'warning',
  help: 'A circle through a box that ends with more than it began with, on average.',
  find: (input) =>
    loops(input)
      .filter((loop) => !isPaidFor(loop) && loop.steps.some(({ chance }) => chance))
      .map((loop) => loopFound(input, loop)),
};

export const buybackAtCost: AuditRule = {
  code: 'buyback-at-cost',
  severity: 'warning',
  help: 'What sells back for all it cost is borrowed, not bought: players wear it and get their money again.',
  find: ({ economy }) => {
    const cheapest = cheapestUnits(economy);
    const labels = economyLabels(economy);
    return [...economy.shops.values()].flatMap((shop) => {
      const { buyback } = shop;
      if (!buyback || shop.hidden) return [];
      if (buyback.of === 'paid')
        return buyback.numerator === buyback.denominator
          ? [
              {
                pointer: pointerOf(['shops', shop.id, 'buyback', 'rate']),
                subject: shop.name,
                message: 'it pays back all that was paid',
                fix: 'Write a rate below 1, such as 0.5.',
              },
            ]
          : [];
      return [...economy.items.values()].flatMap((item) => {
        if (!item.sellable || !buybackTakes(buyback, item)) return [];
        const unit = buybackUnit(buyback, item, null);
        // Above the price it is a money loop, and told as one.
        const back = Object.keys(unit).find((asset) => unit[asset] === cheapest.get(item.id)?.get(asset)?.units);
        return back === undefined
          ? []
          : [
              {
                pointer: pointerOf(['shops', shop.id, 'buyback', 'rate']),
                subject: `${item.name} at ${shop.name}`,
                message: `selling it back pays ${amountText(labels, back, unit[back]!)}, which is what it costs`,
                fix: 'Lower the rate, or take the item out of the buyback.',
              },
            ];
      });
    });
  },
};

export const buybackPaysNothing: AuditRule = {
  code: 'buyback-pays-nothing',
  severity: 'hint',
  help: 'A shop that takes an item and would pay nothing for it, or whose till has nothing to pay with, refuses it after all.',
  find: ({ economy }) =>
    [...economy.shops.values()].flatMap((shop) => {
      const { buyback } = shop;
      if (!buyback || shop.hidden) return [];
      const labels = economyLabels(economy);
      return [...economy.items.values()].flatMap((item): RuleFinding[] => {
        if (!item.sellable || !buybackTakes(buyback, item)) return [];
        const pays = buybackUnit(buyback, item, item.worth);
        const here = { pointer: pointerOf(['items', item.id, 'worth']), subject: `${item.name} at ${shop.name}` };
        if (buyback.of === 'worth' && Object.keys(pays).length === 0)
          return [
            {
              ...here,
              message: `the shop takes it and would pay nothing: its worth is ${basketText(labels, item.worth)}`,
              fix: 'Give it a worth in what the shop pays, write sellable: false, or narrow the buyback.',
            },
          ];
        return tillNames(shop, pays)
          ? []
          : [
              {
                ...here,
                pointer: pointerOf(['shops', shop.id, 'till']),
                message: `the shop would pay ${basketText(labels, pays)}, and its till does not hold any`,
                fix: 'Write what the till holds of it, let the buyback pay another currency, or narrow the buyback.',
              },
            ];
      });
    }),
};

const DEFAULT_FACTOR = 3;

export const earningLoop: AuditRule = {
  code: 'earning-loop',
  severity: 'warning',
  help: 'A way of playing that pays far more a minute than the intended ones, such as giving up at once.',
  find: ({ economy }) => {
    const { ways, intended, usual, best } = playPay(economy);
    const factor = economy.audit.earningFactor ?? DEFAULT_FACTOR;
    const labels = economyLabels(economy);
    const amount = (asset: string, units: number) => amountText(labels, asset, Math.round(units * 10) / 10);
    return ways.flatMap(({ activity, name, choices, perMinute }) =>
      Object.keys(perMinute)
        .filter((asset) => (intended[asset] ?? 0) > 0 && perMinute[asset]!.mean > factor * intended[asset]!)
        .map((asset) => {
          const way = choicesText(choices);
          const other = best[asset]!;
          const rival = `${economy.activities.get(other)!.name} as it is usually played pays ${amount(asset, usual[other]![asset]!)}`;
          return {
            pointer: pointerOf(['activities', activity]),
            subject: name,
            message: `${way === '' ? 'it' : `with ${way} it`} pays ${amount(asset, perMinute[asset]!.mean)} a minute, and what personas usually play pays ${amount(asset, intended[asset]!)}: more than ${factor} times as much${other === activity && way === '' ? '' : `; ${rival}`}`,
            fix: 'Lower what its events pay, limit the rule, or make it longer; audit.earningFactor sets the factor.',
          };
        }),
    );
  },
};
