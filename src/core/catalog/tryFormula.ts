/** A formula that is being written: what it comes to for a player, or what is wrong with it, and where. */
import { formulaCompile } from '../formula/index.js';
import type { FormulaInput, LookupName, Names, Value, ValueType } from '../formula/index.js';
import { nearestName } from '../issue/index.js';
import type { Economy } from '../economy/index.js';
import { playerScope, playerSettle } from '../player/index.js';
import type { Player } from '../player/index.js';

export type FormulaTried =
  | { kind: 'value'; value: number | boolean; inputs: FormulaInput[] }
  /** It fits, and comes to something only when the event is reported. */
  | { kind: 'later' }
  /** It fits, and comes to no number for this player. */
  | { kind: 'none'; problem: string; inputs: FormulaInput[] }
  /** `at` counts characters from 0, the leading `=` included. */
  | { kind: 'wrong'; at: number; problem: string; fix: string };

export interface FormulaAsked {
  formula: string;
  gives: 'truth' | 'number';
  /** The fields of this event can be named too. */
  event?: string | undefined;
}

const WORDS: Readonly<Record<LookupName, string>> = { owned: 'item', balance: 'currency', bought: 'offer' };

const typeOf = (value: Value): ValueType =>
  typeof value === 'boolean' ? 'truth' : typeof value === 'number' ? 'number' : 'text';

export function formulaTry(economy: Economy, player: Player, asked: FormulaAsked, nowMs: number): FormulaTried {
  const fields = (asked.event === undefined ? undefined : economy.events.get(asked.event)?.fields) ?? new Map();
  const names: Names = new Map<string, ValueType>([
    ['day', 'number'],
    ...[...economy.attributes].map(([id, start]): [string, ValueType] => [id, typeOf(start)]),
    ...(fields as ReadonlyMap<string, ValueType>),
  ]);
  const compiled = formulaCompile(asked.formula, names, asked.gives);
  if (!compiled.ok) {
    const { at, message, fix } = compiled.problem;
    return { kind: 'wrong', at, problem: message, fix };
  }
  const { formula } = compiled;
  const known = { owned: economy.items, balance: economy.currencies, bought: economy.offers } as const;
  for (const { lookup, id, at } of formula.references)
    if (!known[lookup].has(id)) {
      const near = nearestName(id, known[lookup].keys());
      const fix = near === undefined ? 'Name one that exists.' : `Did you mean "${near}"?`;
      return { kind: 'wrong', at, problem: `there is no ${WORDS[lookup]} "${id}"`, fix };
    }
  if (formula.names.some((name) => fields.has(name))) return { kind: 'later' };
  const scope = playerScope(economy, playerSettle(economy, player, nowMs).player, nowMs);
  const inputs = formula.inputs(scope);
  const value = formula.run(scope);
  if (typeof value === 'boolean' || (typeof value === 'number' && Number.isFinite(value)))
    return { kind: 'value', value, inputs };
  return { kind: 'none', problem: `it comes to ${String(value)}, which is no number`, inputs };
}
