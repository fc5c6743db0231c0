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

/** What a formula reads: a name, or what a player owns, has or has bought. */
export type Read = Extract<Node, { kind: 'name' | 'lookup' }>;
export type Run<S> = (state: S) => Value;
export type Leaf<S> = (read: Read) => Run<S>;

export interface Formula {
  text: string;
  type: ValueType;
  run(scope: Scope): Value;
  /** The same over another state: `leaf` says how each thing that the formula reads is read there. */
  bind<S>(leaf: Leaf<S>): Run<S>;
  /** Ids that `owned`, `balance` and `bought` name: the caller checks that they exist. */
  references: Reference[];
  names: string[];
  /** Numbers and texts that are written in it: where what it gives may turn. */
  literals: Value[];
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
  const literals = new Set<Value>();
  for (const node of nodesOf(parsed.node)) {
    if (node.kind === 'lookup')
      references.set(`${node.lookup} ${node.id}`, { lookup: node.lookup, id: node.id, at: node.at });
    if (node.kind === 'name') used.add(node.name);
    if (node.kind === 'literal') literals.add(node.value);
  }
  const lookups = [...references.values()];
  const usedNames = [...used];
  return {
    ok: true,
    formula: {
      text,
      type: wants,
      run: compileNode(parsed.node, fromScope),
      bind: (leaf) => compileNode(parsed.node, leaf),
      references: lookups,
      names: usedNames,
      literals: [...literals],
      inputs: (scope) => [
        ...usedNames.map((name) => ({ name, value: scope.name(name) })),
        ...lookups.map(({ lookup, id }) => ({ name: `${lookup}(${id})`, value: scope[lookup](id) })),
      ],
    },
  };
}

function* nodesOf(node: Node): Generator<Node> {
  yield node;
  const inner =
    node.kind === 'unary'
      ? [node.arg]
      : node.kind === 'binary'
        ? [node.left, node.right]
        : node.kind === 'call'
          ? node.args
          : [];
  for (const one of inner) yield* nodesOf(one);
}

const fromScope: Leaf<Scope> = (read) => {
  if (read.kind === 'name') {
    const { name } = read;
    return (scope) => scope.name(name);
  }
  const { lookup, id } = read;
  return (scope) => scope[lookup](id);
};

// Whatever the state is, the operators are the same.
type AnyRun = Run<unknown>;
type NumberRun = (state: unknown) => number;

const BINARY: Record<string, (left: AnyRun, right: AnyRun) => AnyRun> = {
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

function compileNode<S>(node: Node, leaf: Leaf<S>): Run<S> {
  switch (node.kind) {
    case 'literal': {
      const { value } = node;
      return () => value;
    }
    case 'name':
    case 'lookup':
      return leaf(node);
    case 'unary': {
      const arg = compileNode(node.arg, leaf);
      return node.op === 'not' ? (s) => !arg(s) : (s) => -(arg(s) as number);
    }
    case 'binary':
      return BINARY[node.op]!(compileNode(node.left, leaf) as AnyRun, compileNode(node.right, leaf) as AnyRun);
    case 'call':
      return compileCall(
        node.fn,
        node.args.map((arg) => compileNode(arg, leaf)),
      );
  }
}

function compileCall<S>(fn: string, args: Run<S>[]): Run<S> {
  const [first, second, third] = args;
  if (fn === 'if') return (state) => (first!(state) ? second!(state) : third!(state));
  const { run } = FUNCTIONS[fn]!;
  if (args.length === 1) return (state) => run(first!(state) as number);
  if (args.length === 2) return (state) => run(first!(state) as number, second!(state) as number);
  return (state) => run(...args.map((arg) => arg(state) as number));
}
