/**
 * Cases for an offer that nobody had to think of: one unit short, exactly enough, one over; as often as it goes and once
 * more; the day after; full; somebody whom it is not for. What the economy does now is what must hold: the designer
 * strikes out what is not meant.
 */
import type { Basket } from '../amount/index.js';
import { ALLOWED } from '../document/index.js';
import type { CaseDocument } from '../document/index.js';
import type { Economy, Offer } from '../economy/index.js';
import type { Formula, Value } from '../formula/index.js';
import { playerMadeUp } from '../player/index.js';
import type { Profile } from '../player/index.js';
import { rehearse } from '../rehearsal/index.js';
import type { RehearsalStep } from '../rehearsal/index.js';
import { freeId } from '../schema/index.js';
import { amountText, economyLabels } from '../texts/index.js';
import { UNTOUCHED, purchaseCheck } from '../trade/index.js';
import type { Reason, Verdict } from '../trade/index.js';
import { caseKept } from './keep.js';

export interface Proposal {
  id: string;
  offer: string;
  case: CaseDocument;
  /** What the player holds that matters, and what comes of each step: "holds 1399 Shells", "buy ...: refused for short-of". */
  lines: string[];
}

/** Purchases of one kind that are tried in a row, until one is refused. */
const MOST_TRIED = 30;
/** Players of whom one for whom an offer is, and one for whom it is not, are looked for. */
const MOST_PLAYERS = 400;
/** Closed shops and shelves are waited for so often. */
const MOST_WAITS = 10;

/** Where money or a condition cannot be found that would do, an offer has fewer; of one that is never to be bought there are none. */
export function casesProposed(economy: Economy, offers: readonly string[], atMs: number): Proposal[] {
  const taken = new Set<string>();
  return offers.flatMap((offerId) => {
    const offer = economy.offers.get(offerId);
    return (offer ? offerProposals(economy, offer, atMs) : []).map((one) => {
      // Long ids are cut, and could be the same then.
      const id = freeId(one.id, (other) => taken.has(other));
      taken.add(id);
      return { ...one, id };
    });
  });
}

function offerProposals(economy: Economy, offer: Offer, fromMs: number): Proposal[] {
  const { met, unmet } = playersFor(economy, offer, fromMs);
  if (!met) return [];
  const { profile, atMs, pay } = met;
  const buy: RehearsalStep = { buy: offer.id, ...(pay === undefined ? {} : { pay }) };
  const price = met.verdict.price?.total ?? {};
  const propose = (what: string, words: string, who: Profile, steps: RehearsalStep[], paid = price): Proposal =>
    proposalOf(economy, offer, { what, words, profile: who, steps, atMs, price: paid });
  const holding = (basket: Basket): Profile => ({ ...profile, holds: { ...profile.holds, ...basket } });
  const ways = offer.listed
    ? met.verdict.choices.filter((choice) => choice.money === undefined)
    : [{ pay: undefined, total: price }];
  const proposals = ways.flatMap((way, place) => {
    const press: RehearsalStep = { buy: offer.id, ...(way.pay === undefined ? {} : { pay: way.pay }) };
    const exactly = propose(
      place === 0 ? 'exactly' : `exactly_${place + 1}`,
      `exactly enough${place === 0 ? '' : `, paying ${way.pay}`}`,
      holding(way.total),
      [press],
      way.total,
    );
    const around = Object.entries(way.total).flatMap(([asset, units]) => {
      const isOne = Object.keys(way.total).length === 1 && place === 0;
      const [end, of] = isOne
        ? ['', '']
        : [`_${asset}${place === 0 ? '' : `_${place + 1}`}`, `, in ${economyLabels(economy)(asset)?.name ?? asset}`];
      return [
        propose(`one_short${end}`, `one short${of}`, holding({ ...way.total, [asset]: units - 1 }), [press], way.total),
        propose(`one_over${end}`, `one over${of}`, holding({ ...way.total, [asset]: units + 1 }), [press], way.total),
      ];
    });
    return [exactly, ...around];
  });
  const row = inARow(economy, holding(richly(economy, price)), buy, atMs);
  const paid = row.spent;
  if (row.count > 0 && row.refused) {
    const often: RehearsalStep = row.count === 1 ? buy : { ...buy, times: row.count };
    const who = holding(capped(economy, sum(paid, row.next)));
    const words = row.count === 1 ? 'the second time' : `${row.count} times, and once more`;
    proposals.push(propose('once_more', words, who, [often, buy]));
    if (row.refused.some(({ code }) => code === 'limit-reached' || code === 'out-of-stock'))
      proposals.push(propose('day_after', 'the day after', who, [often, { wait: 'day' }, buy]));
  }
  for (const item of fullOf(economy, met.verdict)) {
    const most = economy.items.get(item)!.carry!;
    proposals.push(
      propose(`full_of_${item}`, `full of ${economy.items.get(item)!.name}`, holding({ ...price, [item]: most }), [
        buy,
      ]),
    );
  }
  if (unmet)
    proposals.push(
      propose('not_for', 'somebody whom it is not for', { ...unmet, holds: { ...unmet.holds, ...price } }, [buy]),
    );
  return proposals;
}

interface Asked {
  what: string;
  words: string;
  profile: Profile;
  steps: RehearsalStep[];
  atMs: number;
  price: Basket;
}

function proposalOf(economy: Economy, offer: Offer, { what, words, profile, steps, atMs, price }: Asked): Proposal {
  const name = `${offer.name} at ${offer.shop.name}: ${words}`.slice(0, LONGEST_NAME);
  const kept = caseKept(economy, { profile, steps, atMs }, name);
  const gives = offer.gives.map(({ asset }) => asset);
  const matters = new Set([...Object.keys(price), ...gives]);
  const written = { ...kept, steps: (kept.steps ?? []).map((step) => leanStep(step, matters)) };
  const labels = economyLabels(economy);
  const held = Object.entries(profile.holds ?? {}).map(([asset, units]) => amountText(labels, asset, units));
  const is = Object.entries(profile.attributes ?? {}).map(([id, value]) => `${id} is ${String(value)}`);
  return {
    id: `${offer.id.slice(0, LONGEST_ID)}_${what}`.slice(0, LONGEST_ID + 20),
    offer: offer.id,
    case: written,
    lines: [
      ...(held.length + is.length > 0 ? [[...is, ...held].join(', ')] : []),
      ...written.steps.flatMap(({ expect, times = 1, wait }) =>
        wait !== undefined
          ? ['the day after']
          : [`buy${times > 1 ? ` ${times} times` : ''}: ${verdictWords(expect?.verdict)}`],
      ),
    ],
  };
}

const LONGEST_NAME = 120;
const LONGEST_ID = 44;

const verdictWords = (verdict: string | readonly string[] | undefined): string =>
  typeof verdict === 'object' ? `refused for ${verdict.join(' and ')}` : (verdict ?? ALLOWED);

type StepDocument = NonNullable<CaseDocument['steps']>[number];

/** Only the verdict, the price, and what is paid and given: rewards of goals on the way are no matter of the offer. */
function leanStep({ expect, ...step }: StepDocument, matters: ReadonlySet<string>): StepDocument {
  if (step.buy === undefined || expect?.verdict === undefined) return step;
  const holds = Object.entries(expect.holds ?? {}).filter(([asset]) => matters.has(asset));
  return {
    ...step,
    expect: {
      verdict: expect.verdict,
      ...(expect.price ? { price: expect.price } : {}),
      ...(holds.length > 0 ? { holds: Object.fromEntries(holds) } : {}),
    },
  };
}

const sum = (one: Basket, other: Basket): Basket => {
  const all = { ...one };
  for (const [asset, units] of Object.entries(other)) all[asset] = (all[asset] ?? 0) + units;
  return all;
};

/** Nobody can have more than a cap. */
const capped = (economy: Economy, basket: Basket): Basket =>
  Object.fromEntries(
    Object.entries(basket).map(([asset, units]) => {
      const most = economy.currencies.get(asset)?.cap ?? economy.items.get(asset)?.carry ?? Infinity;
      return [asset, Math.min(units, most)];
    }),
  );

const richly = (economy: Economy, price: Basket): Basket =>
  capped(economy, Object.fromEntries(Object.entries(price).map(([asset, units]) => [asset, units * MOST_TRIED])));

interface Row {
  /** How often it was bought before it was refused. */
  count: number;
  refused: readonly Reason[] | undefined;
  spent: Basket;
  /** What the one that was refused would have cost. */
  next: Basket;
}

function inARow(economy: Economy, profile: Profile, buy: RehearsalStep, atMs: number): Row {
  const player = playerMadeUp(economy, profile, atMs);
  const { steps } = rehearse(economy, { player, shared: UNTOUCHED, atMs }, Array<RehearsalStep>(MOST_TRIED).fill(buy));
  const count = steps.findIndex(({ done }) => !done);
  const spent = steps.slice(0, Math.max(0, count)).reduce<Basket>((all, { price = {} }) => sum(all, price), {});
  const last = steps[count];
  // Where only money ends it, there is no limit to tell of.
  const isMoney = last?.reasons.every(({ code }) => code === 'short-of') ?? true;
  return {
    count: Math.max(0, count),
    refused: isMoney ? undefined : last!.reasons,
    spent,
    next: last?.price ?? {},
  };
}

/** Things that arrive with it, of which only so many can be held. */
const fullOf = (economy: Economy, { before, after }: Verdict): string[] =>
  Object.keys(after).filter(
    (asset) => after[asset]! > (before[asset] ?? 0) && economy.items.get(asset)?.carry !== undefined,
  );

interface Found {
  profile: Profile;
  atMs: number;
  pay: string | undefined;
  verdict: Verdict;
}

const NOT_FOR: readonly Reason['code'][] = ['requirement-unmet', 'not-for-this-player'];

/** A player who can buy it when it is on sale, and one whom it is not for; the nearest to the other where there are several. */
function playersFor(economy: Economy, offer: Offer, fromMs: number): { met?: Found; unmet?: Profile } {
  const pay = offer.listed ? offer.prices?.find(({ kind }) => kind !== 'money')?.pay : undefined;
  let met: Found | undefined;
  const unmet: Profile[] = [];
  for (const profile of playersAround(economy, offer)) {
    const found = bought(economy, offer, profile, pay, fromMs);
    if (found === undefined) continue;
    if (found.isFor) met ??= { profile, atMs: found.atMs, pay, verdict: found.verdict };
    else unmet.push(profile);
  }
  if (!met) return {};
  const nearest = unmet.map((profile) => ({ profile, far: distance(economy, profile, met.profile) }));
  nearest.sort((a, b) => a.far - b.far);
  return { met, ...(nearest[0] ? { unmet: nearest[0].profile } : {}) };
}

/** Undefined where something beside money and the player is in the way. */
function bought(economy: Economy, offer: Offer, profile: Profile, pay: string | undefined, fromMs: number) {
  let atMs = fromMs;
  for (let wait = 0; wait < MOST_WAITS; wait++) {
    const request = { offer: offer.id, ...(pay === undefined ? {} : { pay }) };
    const verdict = purchaseCheck(economy, playerMadeUp(economy, profile, atMs), UNTOUCHED, request, atMs);
    const others = verdict.reasons.filter(({ code }) => code !== 'short-of');
    const opens = others.flatMap((reason) =>
      reason.code === 'shop-closed' ? [reason.opensMs] : reason.code === 'not-on-show' ? [reason.fromMs] : [],
    );
    if (opens.length === 0) {
      const isFor = others.length === 0;
      return isFor || others.every(({ code }) => NOT_FOR.includes(code)) ? { isFor, verdict, atMs } : undefined;
    }
    const next = Math.max(...opens.map((ms) => ms ?? NaN));
    if (!(next > atMs)) return undefined;
    atMs = next;
  }
  return undefined;
}

const distance = (economy: Economy, one: Profile, other: Profile): number => {
  let far = 0;
  for (const [id, start] of economy.attributes) {
    const [a, b] = [one, other].map(({ attributes }) => attributes?.[id] ?? start);
    if (a !== b) far += typeof a === 'number' && typeof b === 'number' ? 1 + Math.abs(a - b) : 1;
  }
  const items = new Set([...Object.keys(one.holds ?? {}), ...Object.keys(other.holds ?? {})]);
  for (const id of items) far += Math.abs((one.holds?.[id] ?? 0) - (other.holds?.[id] ?? 0));
  return far;
};

/** A new player first, then those whose attributes and things are about what the conditions speak of. */
function playersAround(economy: Economy, { when, shop }: Offer): Profile[] {
  const formulas = [when, shop.when].filter((one) => one !== undefined);
  let profiles: Profile[] = [{}];
  const vary = (values: readonly Profile[]): void => {
    if (profiles.length * values.length <= MOST_PLAYERS)
      profiles = profiles.flatMap((one) =>
        values.map((value) => ({
          attributes: { ...one.attributes, ...value.attributes },
          holds: { ...one.holds, ...value.holds },
        })),
      );
  };
  for (const [id, start] of economy.attributes) {
    const values = valuesAround(formulas, id, start);
    if (values.length > 1) vary(values.map((value) => (value === start ? {} : { attributes: { [id]: value } })));
  }
  const owned = new Set(
    formulas.flatMap(({ references }) => references.flatMap(({ lookup, id }) => (lookup === 'owned' ? [id] : []))),
  );
  for (const id of owned) if (economy.items.has(id)) vary([{}, { holds: { [id]: 1 } }]);
  return profiles;
}

/** Values of an attribute at which the conditions may turn, its first one before all. */
function valuesAround(formulas: readonly Formula[], attribute: string, start: Value): Value[] {
  const literals = formulas.filter(({ names }) => names.includes(attribute)).flatMap((one) => one.literals);
  if (literals.length === 0 && !formulas.some(({ names }) => names.includes(attribute))) return [];
  const same = literals.filter((value) => typeof value === typeof start);
  const around =
    typeof start === 'boolean'
      ? [false, true]
      : typeof start === 'number'
        ? (same as number[]).flatMap((value) => [value - 1, value, value + 1])
        : same;
  return [...new Set([start, ...around])];
}
