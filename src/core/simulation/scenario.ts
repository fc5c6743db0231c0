/** From a scenario's text to a run's set-up: its overrides are put into the economy before it is compiled. */
import { overridesApply } from '../document/index.js';
import { economyCompile } from '../economy/index.js';
import type { Economy, Scenario } from '../economy/index.js';
import type { EconomyDocument } from '../document/index.js';
import { personasChoosing } from './pay.js';
import { nearestName, pointerOf } from '../issue/index.js';
import type { Result } from '../issue/index.js';

export interface ScenarioOptions {
  /** JSON pointer to value: what to change in the economy for this run only. Applied after the scenario's own. */
  set?: Record<string, unknown>;
  days?: number;
  players?: number;
  seed?: number;
}

export interface RunSetup {
  economy: Economy;
  scenarioId: string;
  name: string;
  startMs: number;
  days: number;
  seed: number;
  /** How many players of each persona. */
  crowd: { persona: string; players: number }[];
}

/** Resolves a scenario of the document; every problem with it, its overrides or the economy is listed. */
export function scenarioResolve(
  document: EconomyDocument,
  scenarioId: string,
  options: ScenarioOptions = {},
): Result<RunSetup> {
  const scenarios = document.scenarios ?? {};
  if (!Object.hasOwn(scenarios, scenarioId)) {
    const near = nearestName(scenarioId, Object.keys(scenarios));
    return {
      ok: false,
      issues: [
        {
          code: 'dangling-reference',
          pointer: pointerOf(['scenarios', scenarioId]),
          message: `there is no scenario "${scenarioId}"`,
          fix: near ? `Did you mean "${near}"?` : `Scenarios: ${Object.keys(scenarios).join(', ') || 'none yet'}.`,
        },
      ],
    };
  }
  const changed = overridesApply(document, { ...scenarios[scenarioId]!.set, ...options.set });
  if (!changed.ok) return changed;
  const { economy: compiled, issues } = economyCompile(changed.value);
  if (issues.length > 0) return { ok: false, issues };
  const economy = { ...compiled, personas: personasChoosing(compiled) };
  const { name, startMs, days, players, seed = economy.seed, mix } = economy.scenarios.get(scenarioId)!;
  return {
    ok: true,
    value: {
      economy,
      scenarioId,
      name,
      startMs,
      days: options.days ?? days,
      seed: options.seed ?? seed,
      crowd: crowdOf(mix, options.players ?? players),
    },
  };
}

/** What ends a run before its last day. */
export class RunStopped extends Error {
  /** When the session began in which it happened: of several, the first is told. */
  sessionMs = 0;
}

/** A rule that cannot pay, or a goal that cannot count. */
export interface Failing {
  section: 'earning' | 'goals';
  id: string;
}
const CANNOT = { earning: 'pay', goals: 'count for' };

/** A formula that comes to no amount: what it read is in `problem`. */
export function ruleFailed(
  setup: RunSetup,
  { section, id }: Failing,
  persona: number,
  number: number,
  day: number,
  problem: string,
): RunStopped {
  const { economy, crowd } = setup;
  const { name } = economy.personas.get(crowd[persona]!.persona)!;
  return new RunStopped(
    `the run stopped on day ${day + 1}: "${economy[section].get(id)!.name}" (${section}/${id}) cannot ${CANNOT[section]} ${name} ${number + 1}: ${problem}`,
  );
}

/** How many players a run has. */
export const crowdSize = ({ crowd }: RunSetup): number => crowd.reduce((sum, { players }) => sum + players, 0);

/** Players by persona in proportion to the mix; the largest remainders get the last ones, so the sum is exact. */
function crowdOf(mix: Scenario['mix'], players: number): RunSetup['crowd'] {
  const sum = mix.reduce((total, { weight }) => total + weight, 0);
  const exact = mix.map(({ persona, weight }) => ({ persona, exact: sum === 0 ? 0 : (weight / sum) * players }));
  const crowd = exact.map(({ persona, exact: share }) => ({
    persona,
    players: Math.floor(share),
    rest: share - Math.floor(share),
  }));
  let left = players - crowd.reduce((total, one) => total + one.players, 0);
  for (const one of [...crowd].sort((a, b) => b.rest - a.rest)) if (left-- > 0) one.players++;
  return crowd.map(({ persona, players: count }) => ({ persona, players: count }));
}
