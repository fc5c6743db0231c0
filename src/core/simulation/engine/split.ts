/** Splits the players of a run into blocks that take about the same time. */
import type { Persona } from '../../economy/index.js';
import { crowdSize } from '../scenario.js';
import type { RunSetup } from '../scenario.js';
import type { BlockRange } from './block.js';

/** What a day without anything, a session with its visit, and a turn cost, one against the other (measured on the demo). */
const COST = { day: 2, session: 10, turn: 1.5 };

function costOf({ sessions, plays }: Persona): number {
  const weight = plays.reduce((sum, one) => sum + one.weight, 0);
  const minutes = plays.reduce((sum, one) => sum + one.weight * one.activity.minutes, 0) / Math.max(weight, 1e-9);
  const turns = weight > 0 ? sessions.minutes / minutes : 0;
  const perDay = sessions.perDay.reduce((sum, one) => sum + one, 0) / sessions.perDay.length;
  return COST.day + perDay * (COST.session + COST.turn * turns);
}

/** As many ranges as asked for, or as there are players. */
export function blocksOf(setup: RunSetup, blocks: number): BlockRange[] {
  const all = crowdSize(setup);
  const count = Math.max(1, Math.min(blocks, all));
  const costs = setup.crowd.map(({ persona, players }) => ({
    players,
    cost: costOf(setup.economy.personas.get(persona)!),
  }));
  const total = costs.reduce((sum, { players, cost }) => sum + players * cost, 0);
  /** How many of the first players cost that much. */
  const playersFor = (sum: number): number => {
    let left = sum;
    let place = 0;
    for (const { players, cost } of costs) {
      if (left < players * cost) return place + Math.round(left / cost);
      left -= players * cost;
      place += players;
    }
    return place;
  };
  const ends = [0];
  for (let block = 1; block <= count; block++)
    // Each has a player at least, and leaves one for each that follows.
    ends.push(Math.max(ends.at(-1)! + 1, Math.min(all - (count - block), playersFor((total * block) / count))));
  ends[count] = all;
  return ends.slice(1).map((to, block) => ({ from: ends[block]!, to }));
}
