/** A formula, compiled: what it needs, and a function from a scope to a value. */
import { FUNCTIONS } from './functions.js';
import type { LookupName } from './functions.js';
import { formulaParse } from './parse.js';
import type { FormulaProblem, Names, Node, Value, ValueType } from './parse.js';

/** What a formula may read while it runs. Amounts come as display values, so `balance(pearls)` is 2.5 for 250 hundredths. */
export interface Scope {
  /** An attribute of the player, a field of the event, or `day`. */
  name(name: string): Value;
  owned(item: string): number;
  balance(currency: string): number;
  bought(offer: string): number;
}

export interface Reference {
  lookup: LookupName;
  id: string;
  at: number;
}
/** One thing that the formula read and what it was: the breakdown that a verdict shows. */
export interface FormulaInput {
  name: string;
  value: Value;
}

export interface Formula {
  text: string;
  type: ValueType;
  run(scope: Scope): Value;
  /** Ids that `owned`, `balance` and `bought` name: the caller checks that they exist. */
  references: Reference[];
  names: string[];
  inputs(scope: Scope): FormulaInput[];
}

/** Parses, checks and compiles; cost is linear in the text, which has a fixed longest length. */
export function formulaCompile(
  text: string,
  names: Names,
  wants: ValueType,
): { ok: true; formula: Formula } | { ok: false; problem: FormulaProblem } {
  const parsed = formulaParse(text, names, wants);
  if (!parsed.ok) return parsed;
  const references = new Map<string, Reference>();
  const used = new Set<string>();
  collect(parsed.node, references, used);
  const lookups = [...references.values()];
  const usedNames = [...used];
  return {
    ok: true,
    formula: {
      text,
      type: wants,
      run: compileNode(parsed.node),
      references: lookups,
      names: usedNames,
      inputs: (scope) => [
        ...usedNames.map((name) => ({ name, value: scope.name(name) })),
        ...lookups.map(({ lookup, id }) => ({ name: `${lookup}(${id})`, value: scope[lookup](id) })),
      ],
    },
  };
}

function collect(node: Node, references: Map<string, Reference>, used: Set<string>): void {
  if (node.kind === 'lookup')
    references.set(`${node.lookup} ${node.id}`, { lookup: node.lookup, id: node.id, at: node.at });
  if (node.kind === 'name') used.add(node.name);
  if (node.kind === 'unary') collect(node.arg, references, used);
  if (node.kind === 'binary') {
    collect(node.left, references, used);
    collect(node.right, references, used);
  }
  if (node.kind === 'call') for (const arg of node.args) collect(arg, references, used);
}

type Run = (scope: Scope) => Value;
type NumberRun = (scope: Scope) => number;

const BINARY: Record<string, (left: Run, right: Run) => Run> = {
  or: (l, r) => (s) => l(s) || r(s),
  and: (l, r) => (s) => l(s) && r(s),
  '==': (l, r) => (s) => l(s) === r(s),
  '!=': (l, r) => (s) => l(s) !== r(s),
  '<': (l, r) => (s) => l(s) < r(s),
  '>': (l, r) => (s) => l(s) > r(s),
  '<=': (l, r) => (s) => l(s) <= r(s),
  '>=': (l, r) => (s) => l(s) >= r(s),
  '+': (l, r) => (s) => (l as NumberRun)(s) + (r as NumberRun)(s),
  '-': (l, r) => (s) => (l as NumberRun)(s) - (r as NumberRun)(s),
  '*': (l, r) => (s) => (l as NumberRun)(s) * (r as NumberRun)(s),
  '/': (l, r) => (s) => (l as NumberRun)(s) / (r as NumberRun)(s),
  '%': (l, r) => (s) => (l as NumberRun)(s) % (r as NumberRun)(s),
  '^': (l, r) => (s) => (l as NumberRun)(s) ** (r as NumberRun)(s),
};

function compileNode(node: Node): Run {
  switch (node.kind) {
    case 'literal': {
      const { value } = node;
      return () => value;
    }
    case 'name': {
      const { name } = node;
      return (scope) => scope.name(name);
    }
    case 'lookup': {
      const { lookup, id } = node;
      return (scope) => scope[lookup](id);
    }
    case 'unary': {
      const arg = compileNode(node.arg);
      return node.op === 'not' ? (s) => !arg(s) : (s) => -(arg(s) as number);
    }
    case 'binary':
      return BINARY[node.op]!(compileNode(node.left), compileNode(node.right));
    case 'call':
      return compileCall(node.fn, node.args.map(compileNode));
  }
}

function compileCall(fn: string, args: Run[]): Run {
  const [first, second, third] = args;
  if (fn === 'if') return (scope) => (first!(scope) ? second!(scope) : third!(scope));
  const { run } = FUNCTIONS[fn]!;
  if (args.length === 1) return (scope) => run(first!(scope) as number);
  return (scope) => run(...args.map((arg) => arg(scope) as number));
}
