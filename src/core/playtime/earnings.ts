/** What made-up players earn day by day who buy nothing: worked out where that can be, else played. docs/method.md. */
import type { Basket } from '../amount/index.js';
import type { Economy, Persona } from '../economy/index.js';
import {
  Block,
  RunStopped,
  ownStocks,
  percentileWithInterval,
  personasChoosing,
  ratioWithInterval,
  runDay,
  runWeekday,
  slotsMake,
} from '../simulation/index.js';
import type { RunSetup } from '../simulation/index.js';
import { beatPeriod } from '../schedule/index.js';
import type { Rhythm } from '../schedule/index.js';
import { sessionExpected } from './expected.js';
import type { AssetEarnings, PersonaEarnings } from './types.js';

const DAYS = 60;
/** Players of a persona, and of each block of them: intervals of means rest on how blocks differ. */
const PLAYERS = 200;
const BLOCK = 10;

export type EarningsResult = { ok: true; earnings: PersonaEarnings } | { ok: false; problem: string };

/**
 * Of players of one persona, `DAYS` days long. `startMs`: where the first day lies if no scenario has the persona; else it
 * is that of the first which does. The same economy gives the same figures, whatever its shops ask.
 */
export function earningsOf(economy: Economy, id: string, startMs: number): EarningsResult {
  const own = earningOnly(economy);
  const scenario = [...economy.scenarios.values()].find(({ mix }) =>
    mix.some(({ persona, weight }) => persona === id && weight > 0),
  );
  try {
    return { ok: true, earnings: personaEarnings(own, own.personas.get(id)!, scenario?.startMs ?? startMs) };
  } catch (error) {
    if (error instanceof RunStopped) return { ok: false, problem: error.message };
    throw error;
  }
}

/** Nobody buys or leaves, and no wallet is too small for what is saved. */
function earningOnly(economy: Economy): Economy {
  return {
    ...economy,
    shops: new Map(),
    offers: new Map(),
    sales: new Map(),
    currencies: new Map(
      [...economy.currencies].map(([id, currency]) => [
        id,
        currency.refill ? currency : { ...currency, cap: undefined },
      ]),
    ),
    personas: new Map(
      [...personasChoosing(economy)].map(([id, persona]) => [
        id,
        { ...persona, leaves: 0, spending: { ...persona.spending, policy: 'impulse', wishes: [], chance: 0 } },
      ]),
    ),
  };
}

function personaEarnings(economy: Economy, persona: Persona, startMs: number): PersonaEarnings {
  const setup: RunSetup = {
    economy,
    scenarioId: '',
    name: '',
    startMs,
    days: DAYS,
    seed: economy.seed,
    crowd: [{ persona: persona.id, players: PLAYERS }],
  };
  const expected = sessionExpected(economy, persona);
  const sessions = sessionsByDay(setup, persona);
  const played = expected?.isAll ? undefined : play(setup, persona);
  const assets = { ...played?.assets };
  for (const [asset, units] of Object.entries(expected?.pay ?? {}))
    if (units > 0) assets[asset] = { mean: sessions.map((count) => count * units) };
  for (const { id, refill } of economy.currencies.values())
    if (refill)
      assets[id] = {
        ...(assets[id] ?? { mean: sessions.map(() => 0) }),
        refill: { units: refill.amount, everyMs: everyMs(refill.comes, startMs), upTo: refill.upTo },
      };
  const plays = persona.plays.map(({ activity: { id, name } }, place) => ({
    activity: id,
    name,
    times: expected ? sessions.map((count) => count * expected.plays[place]!) : played!.plays[place]!,
  }));
  return {
    persona: persona.id,
    name: persona.name,
    startMs,
    players: played ? PLAYERS : 0,
    minutes: sessions.map((_, day) => minutesOf(persona, (place) => plays[place]!.times[day]!)),
    plays,
    worths: worthsOf(economy),
    assets,
  };
}

/** What can be bought for its worth instead of being earned itself. */
export const worthsOf = ({ items }: Economy): Record<string, Basket> =>
  Object.fromEntries(
    [...items.values()].flatMap(({ id, worth }) => (Object.keys(worth).length > 0 ? [[id, worth]] : [])),
  );

const everyMs = (comes: Rhythm, atMs: number): number => {
  if (comes.kind === 'duration') return comes.everyMs;
  const { startMs, endMs } = beatPeriod(comes.beat, atMs);
  return endMs - startMs;
};

const minutesOf = ({ plays }: Persona, times: (place: number) => number): number =>
  plays.reduce((sum, { activity: { minutes } }, place) => sum + times(place) * minutes, 0);

/** Sessions up to the end of each day, on average. */
function sessionsByDay(setup: RunSetup, { sessions: { perDay } }: Persona): number[] {
  let sum = 0;
  return Array.from({ length: DAYS }, (_, day) => (sum += perDay[runWeekday(setup, runDay(setup, day).startMs)]!));
}

/** Plays the persona's players in blocks, a day of all of them after the other. */
function play(setup: RunSetup, persona: Persona): { plays: number[][]; assets: Record<string, AssetEarnings> } {
  const slots = slotsMake(setup);
  const blocks = Array.from(
    { length: PLAYERS / BLOCK },
    (_, block) => new Block(setup, slots, { from: block * BLOCK, to: (block + 1) * BLOCK }, ownStocks()),
  );
  const activities = [...slots.activities.keys()];
  const indexes = persona.plays.map(({ activity }) => activities.indexOf(activity.id));
  const plays: number[][] = persona.plays.map(() => []);
  const begun = blocks.map((block) => block.soFar().units.slice());
  const columns = slots.assets.map(() => new AssetColumns());
  for (let day = 0; day < DAYS; day++) {
    for (const block of blocks) block.day(day);
    const now = blocks.map((block) => block.soFar());
    indexes.forEach((index, place) =>
      plays[place]!.push(now.reduce((sum, { plays: times }) => sum + times[index]!, 0) / PLAYERS),
    );
    const minutes = now.map(({ plays: times }) => minutesOf(persona, (place) => times[indexes[place]!]!));
    columns.forEach((column, asset) => {
      const units = now.map((one, block) =>
        Array.from({ length: BLOCK }, (_, player) => {
          const at = player * slots.assets.length + asset;
          return one.units[at]! - begun[block]![at]!;
        }),
      );
      column.dayEnds(units, minutes);
    });
  }
  return {
    plays,
    assets: Object.fromEntries(
      slots.assets.flatMap(({ id }, asset) => (columns[asset]!.isEmpty ? [] : [[id, columns[asset]!.columns()]])),
    ),
  };
}

/** What players had come to of one asset by the end of each day, at most so far. */
class AssetColumns {
  private most: number[][] | undefined;
  private readonly mean: number[] = [];
  private readonly played: NonNullable<AssetEarnings['played']> = {
    rateLow: [],
    rateHigh: [],
    half: [],
    halfLow: [],
    halfHigh: [],
  };

  /** By block and player, and the minutes that each block has played. */
  dayEnds(units: readonly number[][], minutes: readonly number[]): void {
    const { played } = this;
    // Of most things nothing ever comes.
    if (!this.most && units.every((block) => block.every((one) => one <= 0))) {
      this.mean.push(0);
      for (const column of Object.values(played)) column.push(0);
      return;
    }
    const most = (this.most ??= units.map((block) => block.map(() => 0)));
    units.forEach((block, at) =>
      block.forEach((one, player) => (most[at]![player] = Math.max(most[at]![player]!, one))),
    );
    const sums = most.map((block) => block.reduce((sum, one) => sum + one, 0));
    this.mean.push(sums.reduce((sum, one) => sum + one, 0) / PLAYERS);
    const rate = ratioWithInterval(sums, minutes);
    played.rateLow.push(Math.max(0, rate.low ?? 0));
    played.rateHigh.push(rate.high ?? 0);
    const half = percentileWithInterval(Float64Array.from(most.flat()).sort(), 50);
    played.half.push(half.mean!);
    played.halfLow.push(half.low!);
    played.halfHigh.push(half.high!);
  }

  get isEmpty(): boolean {
    return (this.mean.at(-1) ?? 0) <= 0;
  }

  columns(): AssetEarnings {
    return { mean: this.mean, played: this.played };
  }
}
