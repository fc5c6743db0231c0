/** Goals and tracks. What a goal lacks the audit tells; such a goal counts nothing. */
import { MAX_UNITS } from '../amount/index.js';
import type { Basket, Units } from '../amount/index.js';
import { COUNTS } from '../document/index.js';
import type { GoalDocument, TrackDocument } from '../document/index.js';
import type { Scope, ValueType } from '../formula/index.js';
import { quantitiesEvaluate } from './quantity.js';
import { spanOf } from './reader.js';
import type { DocumentReader, Segments } from './reader.js';
import { shareCompile } from './compileTeams.js';
import type { Goal, GoalCounts, TeamGoal, Track, TrackLevel } from './progressTypes.js';
import type { Offer } from './types.js';

/** What a goal lacks, by field; of several of which one is enough the first. */
export function goalLacks(written: GoalDocument): string[] {
  const { needs, oneOf } = COUNTS[written.counts];
  const lacks: string[] = needs.filter((field) => written[field] === undefined);
  const hasOne = oneOf.length === 0 || oneOf.some((field) => (written[field]?.length ?? 0) > 0);
  return hasOne ? lacks : [...lacks, oneOf[0]!];
}

/** Those of players, and those of teams. */
export function goalsCompile(
  reader: DocumentReader,
  offers: ReadonlyMap<string, Offer>,
): { goals: Map<string, Goal>; teamGoals: Map<string, TeamGoal> } {
  const goals = new Map<string, Goal>();
  const teamGoals = new Map<string, TeamGoal>();
  for (const goal of goalsOf(reader, offers)) {
    const { team } = reader.document.goals![goal.id]!;
    const { counts } = goal;
    if (team === undefined) goals.set(goal.id, goal);
    else if (counts.kind !== 'owned' && counts.kind !== 'attribute') teamGoals.set(goal.id, { ...goal, counts, team });
  }
  return { goals, teamGoals };
}

const goalsOf = (reader: DocumentReader, offers: ReadonlyMap<string, Offer>): Goal[] =>
  Object.entries(reader.document.goals ?? {}).flatMap(([id, written]): Goal[] => {
    const at = ['goals', id];
    const counts = goalLacks(written).length === 0 ? countsCompile(reader, offers, written, at) : undefined;
    if (!counts) return [];
    const money = counts.kind === 'earned' || counts.kind === 'spent' ? counts.currency : undefined;
    const target =
      money === undefined ? written.target : reader.units(written.target, reader.decimalsOf(money), [...at, 'target']);
    return [
      {
        id,
        name: written.name,
        description: written.description,
        counts,
        target,
        period: {
          period: 'goal',
          most: 1,
          span: written.every === undefined ? { kind: 'lifetime' } : spanOf(written.every),
        },
        after: written.after,
        shownFrom: written.shownFrom ?? 0,
        gives: reader.fixedBasket(written.gives, [...at, 'gives']),
        loot: written.loot !== undefined && reader.lootIds.has(written.loot) ? written.loot : undefined,
        share: shareCompile(reader, written.share, [...at, 'share']),
        sets: new Map(Object.entries(written.sets ?? {}).filter(([name]) => reader.playerNames.has(name))),
      },
    ];
  });

/** Undefined where what it names is not there, which is told once for the whole document. */
function countsCompile(
  reader: DocumentReader,
  offers: ReadonlyMap<string, Offer>,
  written: GoalDocument,
  at: Segments,
): GoalCounts | undefined {
  switch (written.counts) {
    case 'events': {
      const kind = reader.document.events?.[written.event!];
      if (!kind) return undefined;
      const extra = new Map(Object.entries(kind.fields ?? {})) as Map<string, ValueType>;
      const by =
        typeof written.by === 'string' ? reader.formula(written.by, 'number', [...at, 'by'], extra) : written.by;
      const when = reader.condition(written.when, [...at, 'when'], extra);
      return { kind: 'events', event: written.event!, when, by: typeof by === 'number' ? countKept(by) : (by ?? 1) };
    }
    case 'purchases': {
      const items = itemsOf(reader, written);
      const bought = [...offers.values()].filter(
        ({ id, gives }) => written.offers?.includes(id) || gives.some(({ asset }) => items.has(asset)),
      );
      return { kind: 'purchases', offers: new Set(bought.map(({ id }) => id)) };
    }
    case 'earned':
    case 'spent':
      return reader.currencies.has(written.currency!)
        ? { kind: written.counts, currency: written.currency! }
        : undefined;
    case 'owned':
      return { kind: 'owned', items: itemsOf(reader, written), distinct: written.distinct ?? false };
    case 'attribute':
      return reader.playerNames.has(written.attribute!)
        ? { kind: 'attribute', attribute: written.attribute! }
        : undefined;
  }
}

/** Those that are named, of the groups, or with one of the tags. */
function itemsOf({ items }: DocumentReader, { items: named = [], groups = [], tags = [] }: GoalDocument): Set<string> {
  const found = [...items.values()].filter(
    (item) =>
      named.includes(item.id) ||
      (item.group !== undefined && groups.includes(item.group)) ||
      item.tags.some((tag) => tags.includes(tag)),
  );
  return new Set(found.map(({ id }) => id));
}

export function tracksCompile(reader: DocumentReader): Map<string, Track> {
  return new Map(
    Object.entries(reader.document.tracks ?? {}).flatMap(([id, written]): [string, Track][] => {
      const start = reader.document.attributes?.[written.attribute]?.start;
      if (!reader.currencies.has(written.earns) || start === undefined) return [];
      const at = ['tracks', id];
      if (typeof start !== 'number') {
        reader.issue(
          'wrong-value',
          [...at, 'attribute'],
          `"${written.attribute}" is no number, so it holds no level`,
          'Pick an attribute that begins with a number.',
        );
        return [];
      }
      const levels = levelsCompile(reader, written, start, at);
      return [[id, { id, name: written.name, currency: written.earns, attribute: written.attribute, start, levels }]];
    }),
  );
}

const LEVEL_NAME = new Map<string, ValueType>([['level', 'number']]);

function levelsCompile(
  reader: DocumentReader,
  { earns, levels = {}, further }: TrackDocument,
  start: number,
  at: Segments,
): TrackLevel[] {
  const decimals = reader.decimalsOf(earns);
  const found: TrackLevel[] = [];
  let from: Units = 0;
  const add = (level: number, costs: Units, gives: Basket): void => {
    from += costs;
    found.push({ level, costs, from, gives });
  };
  const table = Object.entries(levels)
    .map(([key, one]) => ({ level: Number(key), one, at: [...at, 'levels', key] }))
    .sort((a, b) => a.level - b.level);
  for (const { level, one, at: place } of table) {
    if (level <= start)
      reader.issue(
        'wrong-value',
        place,
        `new players are at level ${start}, so ${level} is never reached`,
        `Begin with level ${start + 1}.`,
      );
    else
      add(
        level,
        reader.units(one.costs, decimals, [...place, 'costs']),
        reader.fixedBasket(one.gives, [...place, 'gives']),
      );
  }
  if (!further) return found;
  const place = [...at, 'further'];
  const costs = reader.quantities({ [earns]: further.costs }, [...place, 'costs'], LEVEL_NAME);
  const gives = reader.quantities(further.gives ?? {}, [...place, 'gives'], LEVEL_NAME);
  for (let level = (found.at(-1)?.level ?? start) + 1; level <= further.to; level++) {
    const cost = quantitiesEvaluate(costs, levelScope(level));
    const given = quantitiesEvaluate(gives, levelScope(level));
    const problem = cost.ok ? (given.ok ? undefined : given.problem.message) : cost.problem.message;
    if (problem !== undefined || !cost.ok || !given.ok) {
      reader.issue('bad-formula', place, `level ${level}: ${problem}`, 'Mend the formula, or end the levels before.');
      break;
    }
    add(level, cost.basket[earns] ?? 0, given.basket);
  }
  return found;
}

/** What levels cost and give is the same for all players, so a formula may name the level alone. */
const levelScope = (level: number): Scope => ({
  name: (name) => (name === 'level' ? level : Number.NaN),
  owned: () => Number.NaN,
  balance: () => Number.NaN,
  bought: () => Number.NaN,
});

/** A count is kept to so many decimals, so that sums of parts come out even. */
const COUNT_DECIMALS = 4;
const COUNT_SCALE = 10 ** COUNT_DECIMALS;

/** A count to as many decimals as are kept. */
export const countKept = (count: number): number =>
  Number.isInteger(count) ? count : Math.round(count * COUNT_SCALE) / COUNT_SCALE;

/** What a formula comes to as a count; undefined where it is none. */
export const countRound = (value: number): number | undefined =>
  value >= 0 && value <= MAX_UNITS ? countKept(value) : undefined;
