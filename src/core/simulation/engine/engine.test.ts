/** The engine against the reference, over economies in which everything comes up. */
import fc from 'fast-check';
import { smallEconomy } from '../../../../tests/support/smallEconomy.js';
import { demoDocument } from '../../../../tests/support/economy.js';
import { economyCompile } from '../../economy/index.js';
import type { Economy } from '../../economy/index.js';
import type { EconomyDocument } from '../../document/index.js';
import { memoryProblem, scenarioResolve, simulateEngine, simulateReference } from '../index.js';
import { offerLuck } from '../luck.js';
import { ResultMaker } from '../maker.js';
import type { Level } from '../../schedule/index.js';
import { Block } from './block.js';
import { Crowd, bytesPerPlayer } from './crowd.js';
import { ownStocks } from './shared.js';
import { blocksOf } from './split.js';
import { slotsMake } from './slots.js';
import { personasChoosing } from '../pay.js';
import { RunStopped } from '../scenario.js';
import type { RunSetup } from '../scenario.js';
import type { Simulator } from '../reference.js';
import type { SimulationResult } from '../result.js';

const SEEDS = 800;
/** In how many of them each kind of rule must come up. */
const LEAST = 12;

function setupOf(document: EconomyDocument): RunSetup {
  const setup = scenarioResolve(document, 'days');
  if (!setup.ok) throw new Error(JSON.stringify(setup.issues, null, 1));
  return setup.value;
}

/** The same without asking first whether all of the document fits its schema, which takes longer than to play it. */
function setupUnread(document: EconomyDocument): RunSetup {
  const { economy, issues } = economyCompile(document);
  if (issues.length > 0) throw new Error(JSON.stringify(issues, null, 1));
  const { id, name, startMs, days, players, seed, mix } = economy.scenarios.get('days')!;
  const weights = mix.reduce((sum, { weight }) => sum + weight, 0);
  const crowd = mix.map(({ persona, weight }) => ({ persona, players: (players * weight) / weights }));
  return {
    economy: { ...economy, personas: personasChoosing(economy) },
    scenarioId: id,
    name,
    startMs,
    days,
    seed: seed!,
    crowd,
  };
}

/** The result, or what stopped the run. */
function played(simulator: Simulator, setup: RunSetup): SimulationResult | string {
  try {
    return simulator(setup);
  } catch (error) {
    if (error instanceof RunStopped) return error.message;
    throw error;
  }
}

/** What a result shows to have happened, and what a document has, by name. */
function kindsOf(
  economy: Economy,
  { flows, offers, totals, targets, players }: ReturnType<typeof simulateReference>,
): string[] {
  const kinds = new Set<string>();
  for (const cause of flows.cause) kinds.add(cause.replace(/:.*/, ''));
  for (const codes of offers.refused) for (const code of Object.keys(codes)) kinds.add(`refused ${code}`);
  if (totals.purchases > 0) kinds.add('purchases');
  for (const offer of economy.offers.values()) {
    for (const { span } of offer.limits) kinds.add(`limit ${span.kind}`);
    for (const { kind } of offer.prices ?? []) kinds.add(`price ${kind}`);
    if ((offer.prices?.length ?? 0) > 1) kinds.add('price alternatives');
    if (offer.prices?.some((one) => one.kind === 'assets' && one.basket.some(({ kind }) => kind === 'formula')))
      kinds.add('price formula');
    if (offer.stock) kinds.add(`stock ${offer.stock.scope}${offer.stock.restock ? ' restocked' : ''}`);
    if (offer.sales.length > 0) kinds.add('sale');
    if (offer.sales.some(({ when }) => when)) kinds.add('sale with a condition');
    if (offer.when) kinds.add('offer with a condition');
    if (offer.gives.some(({ kind }) => kind === 'formula')) kinds.add('gives formula');
    if (offer.hidden) kinds.add('hidden offer');
  }
  for (const { when, opening, till, shelves } of economy.shops.values()) {
    if (when) kinds.add('shop with a condition');
    if (opening.recurrences.length > 0) kinds.add('shop with hours');
    if (till) kinds.add('till');
    for (const { rotation } of shelves)
      if (rotation) kinds.add(rotation.perPlayer ? 'rotation for each player' : 'rotation');
  }
  for (const rule of economy.earning.values()) {
    if (rule.when) kinds.add('rule with a condition');
    if (rule.chance !== 1) kinds.add(typeof rule.chance === 'number' ? 'chance' : 'chance by formula');
    if (rule.loot) kinds.add('loot');
    if (rule.takes.length > 0) kinds.add('rule that takes');
    if (rule.cooldownMs !== undefined) kinds.add('cooldown');
    for (const { span } of rule.limits) kinds.add(`rule limit ${span.kind}`);
  }
  for (const { counts, period, after, sets, loot } of economy.goals.values()) {
    kinds.add(`goal of ${counts.kind}`);
    kinds.add(`goal for ${period.span.kind}`);
    if (after !== undefined) kinds.add('goal after another');
    if (sets.size > 0) kinds.add('goal that sets');
    if (loot !== undefined) kinds.add('goal that draws');
  }
  for (const { emits, needs } of economy.activities.values()) {
    if (Object.keys(needs).length > 0) kinds.add('needs');
    if (emits.length > 1) kinds.add('two events');
    for (const { fields } of emits) for (const { draw } of fields) kinds.add(`draw ${draw.kind}`);
  }
  for (const { spending, leaves, attributes, sessions, playsFor } of economy.personas.values()) {
    if (playsFor !== undefined) kinds.add('plays for pay');
    kinds.add(sessions.fixed ? 'sessions fixed' : 'sessions drawn');
    kinds.add(`begins ${sessions.begins.kind}`);
    if (new Set(sessions.perDay).size > 1) kinds.add('weekdays');
    kinds.add(`policy ${spending.policy}`);
    if (Object.keys(spending.keeps).length > 0) kinds.add('keeps');
    if (leaves > 0) kinds.add('leaves');
    if (attributes.length > 0) kinds.add('attributes');
  }
  for (const { refill, ends, cap, overCap } of economy.currencies.values()) {
    if (refill) kinds.add('refill');
    if (ends) kinds.add('currency that ends');
    if (cap !== undefined) kinds.add(`cap ${overCap}`);
  }
  if (economy.yieldingItems.length > 0) kinds.add('yields');
  for (const { mark } of targets) kinds.add(`target ${mark}`);
  for (const days of Object.values(players.reasonDays)) if (days.some((n) => n > 1)) kinds.add('reason on two days');
  return [...kinds];
}

const KINDS = `stopped start activity earning goal track purchase refill ended over-cap purchases
  |refused short-of|refused limit-reached|refused carry-full|refused over-cap|refused out-of-stock|refused not-on-show
  |refused shop-closed|refused not-for-this-player|refused requirement-unmet|refused zero-price|refused bad-formula
  |limit lifetime|limit calendar|limit duration|price assets|price free|price money|price alternatives|price formula
  |stock shared|stock shared restocked|stock player|stock player restocked|sale|sale with a condition
  |offer with a condition|gives formula|hidden offer|shop with a condition|shop with hours|till|rotation
  |rotation for each player|rule with a condition|chance|chance by formula|loot|rule that takes|cooldown
  |goal of events|goal of purchases|goal of earned|goal of spent|goal of owned|goal of attribute|goal for lifetime
  |goal for calendar|goal for duration|goal after another|goal that sets|goal that draws
  |rule limit lifetime|rule limit calendar|rule limit duration|needs|two events|draw constant|draw formula|draw range
  |draw weights|draw chosen|plays for pay|draw poisson|draw normal|draw lognormal|draw geometric|policy wishlist|policy impulse|keeps|leaves
  |target met|target under|target over|target undecided|target unknown|reason on two days
  |attributes|sessions fixed|sessions drawn|begins evenly|begins hourly|weekdays|refill|currency that ends|cap clip|cap refuse|yields`
  .replace(/^[^|]*/, (words) => words.trim().replace(/ /g, '|'))
  .split('|')
  .map((kind) => kind.trim());

test('eight hundred economies come to the same bytes, and everything comes up in them', () => {
  const seen = new Map<string, number>();
  for (let seed = 0; seed < SEEDS; seed++) {
    const [document] = fc.sample(fc.noBias(smallEconomy), { seed, numRuns: 1 }) as [EconomyDocument];
    const setup = seed % 20 === 0 ? setupOf(document) : setupUnread(document);
    const reference = played(simulateReference, setup);
    const engine = played(simulateEngine, setup);
    if (typeof reference === 'string') {
      // A formula that came to no amount stopped both, at the same event.
      expect(engine).toBe(reference);
      seen.set('stopped', (seen.get('stopped') ?? 0) + 1);
      continue;
    }
    if (JSON.stringify(engine) !== JSON.stringify(reference))
      throw new Error(`seed ${seed} differs:\n${differences(engine, reference)}\n${JSON.stringify(document)}`);
    for (const kind of kindsOf(setup.economy, reference)) seen.set(kind, (seen.get(kind) ?? 0) + 1);
  }
  const rare = KINDS.filter((kind) => (seen.get(kind) ?? 0) < LEAST).map((kind) => `${kind}: ${seen.get(kind) ?? 0}`);
  expect(rare).toEqual([]);
});

/** The first places in which two results differ. */
function differences(a: unknown, b: unknown, path = ''): string {
  if (JSON.stringify(a) === JSON.stringify(b)) return '';
  if (typeof a !== 'object' || typeof b !== 'object' || a === null || b === null)
    return `${path}: ${JSON.stringify(a)} instead of ${JSON.stringify(b)}\n`;
  return [...new Set([...Object.keys(a), ...Object.keys(b)])]
    .map((key) => differences((a as never)[key], (b as never)[key], `${path}/${key}`))
    .join('')
    .split('\n')
    .slice(0, 12)
    .join('\n');
}

test("the demo's first month is the same, whoever plays it", () => {
  const setup = scenarioResolve(demoDocument(), 'first_month', { players: 60, days: 20 });
  if (!setup.ok) throw new Error(JSON.stringify(setup.issues));
  expect(JSON.stringify(simulateEngine(setup.value))).toBe(JSON.stringify(simulateReference(setup.value)));
});

test('a run in which nobody plays comes to nothing, and does not fail', () => {
  const document = demoDocument();
  document.scenarios!['days'] = { name: 'Days', start: '2027-03-01', days: 2, players: 5, mix: {} };
  const setup = setupOf(document);
  expect(simulateEngine(setup)).toEqual(simulateReference(setup));
  expect(simulateEngine(setup).totals).toMatchObject({ playerDays: 0, sessions: 0 });
});

test('the columns have the bytes that are told before they are made, and memory grows with players alone', () => {
  const setup = scenarioResolve(demoDocument(), 'first_month');
  if (!setup.ok) throw new Error(JSON.stringify(setup.issues));
  const slots = slotsMake(setup.value);
  const crowd = new Crowd(slots, 100, 29);
  const columns = Object.values(crowd).filter((one) => ArrayBuffer.isView(one));
  const bytes = columns.reduce((sum, { byteLength }) => sum + byteLength, 0);
  expect(columns.length).toBeGreaterThan(10);
  expect(bytes).toBe(100 * bytesPerPlayer(slots));
  const million = { ...setup.value, crowd: [{ persona: 'weekender', players: 1_000_000 }], days: 10_000 };
  expect(memoryProblem(million, 1e9)).toMatch(
    /^1,000,000 players need about \d\.\d GB of memory, and 1\.0 GB are free: play \d+,000 at most$/,
  );
  expect(memoryProblem(million, 64e9)).toBeUndefined();
});

describe('blocks', () => {
  const setup = (() => {
    const resolved = scenarioResolve(demoDocument(), 'first_month', { players: 60, days: 12 });
    if (!resolved.ok) throw new Error(JSON.stringify(resolved.issues));
    return resolved.value;
  })();

  test('a run that is interrupted on any day and goes on from what was kept comes to the same bytes', () => {
    const slots = slotsMake(setup);
    const maker = new ResultMaker(setup, slots);
    const levels: (Level | undefined)[] = [];
    let block = new Block(setup, slots, { from: 0, to: 60 }, ownStocks(levels));
    for (let day = 0; day < setup.days; day++) {
      if (day % 4 === 1) block = new Block(setup, slots, { from: 0, to: 60 }, ownStocks(levels), block.save());
      const { tally, holdings } = block.day(day);
      maker.dayEnds(day, tally, holdings);
    }
    const { tally, ends } = block.end();
    expect(JSON.stringify(maker.result(tally, ends))).toBe(JSON.stringify(simulateEngine(setup)));
  });

  test.each([1, 2, 3, 7, 60, 200])('players are split into %d blocks of at least one, none left out', (count) => {
    const ranges = blocksOf(setup, count);
    expect(ranges).toHaveLength(Math.min(count, 60));
    expect([ranges[0]!.from, ranges.at(-1)!.to]).toEqual([0, 60]);
    for (const [index, { from, to }] of ranges.entries()) {
      expect(to).toBeGreaterThan(from);
      if (index > 0) expect(from).toBe(ranges[index - 1]!.to);
    }
  });
});

test('a formula that fails in the middle stops the run with the rule, the player, the day and what it read', () => {
  const document = demoDocument();
  document.earning!['race_prize']!.gives = { shells: '=if(day >= 3, 0 - place, 5)' };
  const resolved = scenarioResolve(document, 'racers_only', { players: 5, days: 9 });
  if (!resolved.ok) throw new Error(JSON.stringify(resolved.issues));
  expect(() => simulateEngine(resolved.value)).toThrow(
    /^the run stopped on day 4: "Race prize" \(earning\/race_prize\) cannot pay Racer \d: .* gives -\d, not an amount from 0 to the ceiling \(day = 3, place = \d\)$/,
  );
});

test('the luck of an offer is its own, whatever else is on sale', () => {
  const ids = Array.from({ length: 5000 }, (_, index) => `offer_${index}`);
  expect(new Set(ids.map(offerLuck)).size).toBeGreaterThan(4990);
});

test('what nobody comes by in a run has no columns, and the run is the same without it', () => {
  const plain = demoDocument();
  const grown = demoDocument();
  const ids = Array.from({ length: 300 }, (_, index) => `more_${index}`);
  for (const id of ids) grown.items![id] = { name: id, kind: 'durable', carry: 1, worth: { shells: 10 } } as never;
  grown.shops!['later'] = {
    name: 'Later',
    from: '2028-01-01',
    shelves: { all: { name: 'All', offers: Object.fromEntries(ids.map((id) => [id, { gives: id }])) } },
  } as never;
  const [alone, beside] = [plain, grown].map((document) => {
    const resolved = scenarioResolve(document, 'racers_only', { players: 20, days: 5 });
    if (!resolved.ok) throw new Error(JSON.stringify(resolved.issues));
    return resolved.value;
  }) as [RunSetup, RunSetup];
  expect(bytesPerPlayer(slotsMake(beside))).toBe(bytesPerPlayer(slotsMake(alone)));
  expect(JSON.stringify(simulateEngine(beside))).toBe(JSON.stringify(simulateEngine(alone)));
});
