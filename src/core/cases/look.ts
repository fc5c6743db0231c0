/** What must hold, held against what there is: one entry for each thing that a case can ask for. */
import { unitsFormat } from '../amount/index.js';
import type { Economy, Shop } from '../economy/index.js';
import { playerHolds } from '../player/index.js';
import { progressOf } from '../progress/index.js';
import { refusedFor } from '../rehearsal/index.js';
import type { RehearsalState, RehearsalStep, StepDone } from '../rehearsal/index.js';
import { frontMake } from '../storefront/index.js';
import { amountName, economyLabels, languageShown, refusalText } from '../texts/index.js';
import type { Bound, Expectation } from './types.js';

/** One thing that does not hold, in words. */
export interface Miss {
  /** What was looked at: "price", "holds Shells". */
  what: string;
  expected: string;
  found: string;
}

/** Where things stand, after a step where there was one. */
export interface Seen {
  economy: Economy;
  state: RehearsalState;
  step?: RehearsalStep;
  done?: StepDone;
}

type Look<F extends keyof Expectation> = (wanted: NonNullable<Expectation[F]>, seen: Seen) => Miss[];

const ALLOWED = 'allowed';
const verdictText = (codes: readonly string[]): string =>
  codes.length === 0 ? ALLOWED : `refused for ${codes.join(' and ')}`;

const isWithin = ({ from, to }: Bound, value: number): boolean => value >= from && value <= to;

const plain = (value: number): string => String(value);
function boundText({ from, to }: Bound, text = plain): string {
  if (from === to) return text(from);
  if (to === Infinity) return `${text(from)} or more`;
  return from === 0 ? `${text(to)} or less` : `${text(from)} to ${text(to)}`;
}

function amounts(economy: Economy, what: string, bound: Bound | undefined, units: number, asset: string): Miss[] {
  if (bound && isWithin(bound, units)) return [];
  const label = economyLabels(economy)(asset);
  const number = (one: number): string => unitsFormat(one, label?.decimals ?? 0);
  const name = label ? amountName(label, units) : asset;
  const expected = bound ? boundText(bound, number) : 'none';
  return [{ what: `${what} ${name}`, expected, found: number(units) }];
}

const LOOKS: { readonly [F in keyof Expectation]-?: Look<F> } = {
  verdict: (codes, { done }) => {
    const found = refusedFor(done!);
    const same = found.length === codes.length && codes.every((code) => found.includes(code));
    return same ? [] : [{ what: 'verdict', expected: verdictText(codes), found: verdictText(found) }];
  },
  price: (wanted, { economy, done }) => {
    const price = done!.price;
    if (price === undefined) return [{ what: 'price', expected: 'a price', found: 'none' }];
    const assets = [...new Set([...Object.keys(wanted), ...Object.keys(price)])];
    return assets.flatMap((asset) => amounts(economy, 'price in', wanted[asset], price[asset] ?? 0, asset));
  },
  holds: (wanted, { economy, state }) =>
    Object.entries(wanted).flatMap(([asset, bound]) =>
      amounts(economy, 'holds', bound, playerHolds(economy, state.player, asset), asset),
    ),
  attributes: (wanted, { state }) =>
    Object.entries(wanted).flatMap(([name, value]) => {
      const found = state.player.attributes[name];
      return found === value ? [] : [{ what: name, expected: String(value), found: String(found) }];
    }),
  levels: (wanted, { economy, state }) => {
    const { tracks } = progressOf(economy, state.player, state.atMs, true);
    return Object.entries(wanted).flatMap(([id, bound]) => {
      const { name, level } = tracks.find(({ track }) => track === id)!;
      return isWithin(bound, level)
        ? []
        : [{ what: `level of ${name}`, expected: boundText(bound), found: String(level) }];
    });
  },
  goals: (wanted, { economy, state }) => {
    const { goals } = progressOf(economy, state.player, state.atMs, true);
    return Object.entries(wanted).flatMap(([id, expected]) => {
      const standing = goals.find(({ goal }) => goal === id);
      const found = standing?.reached ? 'reached' : 'open';
      return found === expected ? [] : [{ what: `goal ${economy.goals.get(id)!.name}`, expected, found }];
    });
  },
  shows: (wanted, seen) => shown(wanted, seen, true),
  hides: (wanted, seen) => shown(wanted, seen, false),
  says: (wanted, { economy, step, done }) =>
    Object.entries(wanted).flatMap(([language, expected]) => {
      const offer = step && 'buy' in step ? step.buy : undefined;
      const shownIn = languageShown(economy, language);
      const sentences = done!.reasons.map((reason) => refusalText(economy, shownIn, reason, offer));
      return sentences.includes(expected)
        ? []
        : [{ what: `reads in ${language}`, expected, found: sentences.join(' ') || 'nothing' }];
    }),
};

/** What a shop shows is worked out once for all that is asked of it. */
function shown(offers: readonly string[], { economy, state }: Seen, wanted: boolean): Miss[] {
  const onShow = new Map<Shop, ReadonlySet<string>>();
  const words = (isShown: boolean): string => (isShown ? 'on show' : 'not on show');
  return offers.flatMap((id) => {
    const { shop, name } = economy.offers.get(id)!;
    const ids = onShow.get(shop) ?? (shop.hidden ? new Set<string>() : idsShown(economy, shop, state));
    onShow.set(shop, ids);
    return ids.has(id) === wanted ? [] : [{ what: name, expected: words(wanted), found: words(!wanted) }];
  });
}

const idsShown = (economy: Economy, shop: Shop, { player, shared, atMs }: RehearsalState): ReadonlySet<string> =>
  new Set(frontMake(economy, shop, player, shared, atMs).shelves.flatMap(({ offers }) => offers.map(({ id }) => id)));

/** Everything that does not hold, in the order of the table. */
export const expectationMisses = (wanted: Expectation, seen: Seen): Miss[] =>
  (Object.keys(LOOKS) as (keyof Expectation)[]).flatMap((field) => {
    const value = wanted[field];
    return value === undefined ? [] : (LOOKS[field] as (value: unknown, seen: Seen) => Miss[])(value, seen);
  });
