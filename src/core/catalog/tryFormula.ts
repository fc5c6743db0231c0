/** A formula that is being written: what it comes to for a player, or what is wrong with it, and where. */
import { formulaCompile } from '../formula/index.js';
import type { Formula, FormulaInput, LookupName, Names, Scope, Value, ValueType } from '../formula/index.js';
import { nearestName } from '../issue/index.js';
import type { Economy } from '../economy/index.js';
import { playerScope, playerSettle } from '../player/index.js';
import type { Player } from '../player/index.js';

export type FormulaTried =
  /** `curves`: of a number, over each number that it reads. */
  | { kind: 'value'; value: number | boolean; inputs: FormulaInput[]; curves: FormulaCurve[] }
  /** It fits, and comes to something only when the event is reported. */
  | { kind: 'later' }
  /** It fits, and comes to no number for this player. */
  | { kind: 'none'; problem: string; inputs: FormulaInput[] }
  /** `at` counts characters from 0, the leading `=` included. */
  | { kind: 'wrong'; at: number; problem: string; fix: string };

/** What a formula comes to while one thing that it reads is another, and all others are as they are. */
export interface FormulaCurve {
  /** As in the inputs: `level`, `owned(wind_chime)`. */
  name: string;
  /** Null where it comes to no number. */
  points: { at: number; value: number | null }[];
}

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
    return { kind: 'value', value, inputs, curves: typeof value === 'number' ? curvesOf(economy, formula, scope) : [] };
  return { kind: 'none', problem: `it comes to ${String(value)}, which is no number`, inputs };
}

/** So many values of one input are looked at. */
const POINTS = 25;
/** As far as is looked where nothing says how far it goes. */
const USUAL_MOST = 20;

function curvesOf(economy: Economy, formula: Formula, scope: Scope): FormulaCurve[] {
  const curve = (name: string, now: number, [from, to]: Span, at: (value: number) => Scope): FormulaCurve => {
    const step = Math.max(1, Math.ceil((to - from) / (POINTS - 1)));
    const values = Array.from({ length: Math.floor((to - from) / step) + 1 }, (_, place) => from + place * step);
    // The end, and the value that stands now, are points of their own.
    const all = [...new Set([...values, to, now])].sort((a, b) => a - b);
    return {
      name,
      points: all.map((one) => {
        const value = formula.run(at(one)) as number;
        return { at: one, value: Number.isFinite(value) ? value : null };
      }),
    };
  };
  return [
    ...formula.names.flatMap((name) => {
      const now = scope.name(name);
      return typeof now !== 'number'
        ? []
        : [
            curve(name, now, attributeSpan(economy, name, now), (value) => ({
              ...scope,
              name: (one) => (one === name ? value : scope.name(one)),
            })),
          ];
    }),
    ...formula.references.map(({ lookup, id }) => {
      const now = scope[lookup](id);
      return curve(`${lookup}(${id})`, now, [0, Math.max(now, lookupMost(economy, lookup, id))], (value) => ({
        ...scope,
        [lookup]: (one: string) => (one === id ? value : scope[lookup](one)),
      }));
    }),
  ];
}

type Span = readonly [number, number];

/** From where a new player is: up to the highest level of a track, else as far as usual. */
function attributeSpan({ attributes, tracks }: Economy, name: string, now: number): Span {
  const start = Number(attributes.get(name) ?? 0);
  const levels = [...tracks.values()].find(({ attribute }) => attribute === name)?.levels;
  const from = Math.min(start, now, name === 'day' ? 1 : start);
  return [from, Math.max(now, levels?.at(-1)?.level ?? from + USUAL_MOST)];
}

/** As many as can be carried, held in a wallet or bought at all, where the economy says so. */
function lookupMost({ items, currencies, offers }: Economy, lookup: LookupName, id: string): number {
  if (lookup === 'owned') return items.get(id)?.carry ?? USUAL_MOST;
  if (lookup === 'bought')
    return offers.get(id)?.limits.find(({ span }) => span.kind === 'lifetime')?.most ?? USUAL_MOST;
  const { cap, start, decimals } = currencies.get(id)!;
  return (cap ?? Math.max(1000, 10 * start)) / 10 ** decimals;
}
