/**
 * Reads a formula's text into a small checked tree. jsep does the parsing; what is allowed, the types and
 * the positions are decided here. A formula has no loops, no assignment and no way out of itself.
 */
import jsep from 'jsep';
import { FUNCTIONS, FUNCTION_NAMES, LOOKUPS } from './functions.js';
import type { LookupName } from './functions.js';

export type ValueType = 'number' | 'text' | 'truth';
export type Value = number | string | boolean;

export type Node =
  | { kind: 'literal'; type: ValueType; value: Value }
  | { kind: 'name'; type: ValueType; name: string }
  | { kind: 'lookup'; type: 'number'; lookup: LookupName; id: string; at: number }
  | { kind: 'call'; type: ValueType; fn: string; args: Node[] }
  | { kind: 'unary'; type: ValueType; op: '-' | 'not'; arg: Node }
  | { kind: 'binary'; type: ValueType; op: string; left: Node; right: Node };

/** Names a formula may use, with their types. */
export type Names = ReadonlyMap<string, ValueType>;

/** `at` counts characters from 0 in the text, the leading `=` included. */
export interface FormulaProblem {
  message: string;
  fix: string;
  at: number;
}

export const MAX_FORMULA_LENGTH = 500;

interface RawNode {
  type: string;
  start?: number;
  [key: string]: unknown;
}

configureParser();

/** jsep is configured once for the whole process; nothing else here uses it. */
function configureParser(): void {
  jsep.removeAllBinaryOps();
  jsep.removeAllUnaryOps();
  for (const op of ['-', 'not']) jsep.addUnaryOp(op);
  const precedence: Record<string, number> = {
    or: 1,
    and: 2,
    '==': 6,
    '!=': 6,
    '<': 7,
    '>': 7,
    '<=': 7,
    '>=': 7,
    '+': 9,
    '-': 9,
    '*': 10,
    '/': 10,
    '%': 10,
  };
  for (const [op, level] of Object.entries(precedence)) jsep.addBinaryOp(op, level);
  jsep.addBinaryOp('^', 11, true);
  // jsep keeps no positions: remember where each token began, matched up by nesting.
  const starts: number[] = [];
  // 'before-all' runs but is missing from jsep's list of hook names.
  jsep.hooks.add('before-all' as 'gobble-token', () => {
    starts.length = 0;
  });
  jsep.hooks.add('gobble-token', function (this: { index: number; expr: string }) {
    let start = this.index;
    while (/\s/.test(this.expr[start] ?? '')) start++;
    // Numbers end without the second hook.
    if (!/[\d.]/.test(this.expr[start] ?? '')) starts.push(start);
  });
  jsep.hooks.add('after-token', (env: { node?: unknown }) => {
    const start = starts.pop();
    if (env.node && typeof env.node === 'object') (env.node as RawNode).start ??= start;
  });
}

class Stop extends Error {
  constructor(readonly problem: FormulaProblem) {
    super(problem.message);
  }
}

function stop(at: number, message: string, fix: string): never {
  throw new Stop({ message, fix, at: at + 1 });
}

/**
 * Parses `text` (with its leading `=`) and checks every name and type in it.
 * `wants` is the type the whole formula must have: number for amounts, truth for conditions.
 */
export function formulaParse(
  text: string,
  names: Names,
  wants: ValueType,
): { ok: true; node: Node } | { ok: false; problem: FormulaProblem } {
  try {
    if (!text.startsWith('=')) stop(-1, 'a formula begins with "="', 'Put "=" before the formula.');
    if (text.length > MAX_FORMULA_LENGTH)
      stop(
        MAX_FORMULA_LENGTH,
        `the formula has ${text.length} characters and ${MAX_FORMULA_LENGTH} is the most`,
        'Split it, or simplify it.',
      );
    const node = convert(jsepParse(text.slice(1)), names);
    if (node.type !== wants)
      stop(
        0,
        `the formula gives a ${node.type} where a ${wants} is needed`,
        wants === 'truth' ? 'Compare something, such as level >= 3.' : 'Give a number.',
      );
    return { ok: true, node };
  } catch (error) {
    if (error instanceof Stop) return { ok: false, problem: error.problem };
    throw error;
  }
}

function jsepParse(body: string): RawNode {
  try {
    return jsep(body) as unknown as RawNode;
  } catch (error) {
    const { index, description } = error as { index?: number; description?: string };
    if (index === undefined) throw error;
    const lone = /[^=<>!]=[^=]|^=[^=]/.test(body);
    return stop(
      index,
      `the formula breaks off: ${description ?? 'syntax error'}`,
      lone ? 'To compare, write == (two signs).' : 'Check brackets, quotes and operators near this place.',
    );
  }
}

function convert(raw: RawNode, names: Names): Node {
  const converter = CONVERTERS[raw.type];
  if (!converter)
    return stop(
      raw.start ?? 0,
      `${WORDS[raw.type] ?? 'this'} cannot be used in a formula`,
      'Use numbers, names, the listed functions and operators.',
    );
  return converter(raw, names);
}

const WORDS: Record<string, string> = {
  MemberExpression: 'a point or square brackets',
  ConditionalExpression: 'a ? b : c',
  ArrayExpression: 'a list',
  Compound: 'more than one expression',
  ThisExpression: '"this"',
};

const CONVERTERS: Record<string, (raw: RawNode, names: Names) => Node> = {
  Literal: (raw) => {
    const value = raw['value'] as Value | null;
    if (value === null) return stop(raw.start ?? 0, 'null is not a value here', 'Write a number or a text in quotes.');
    return {
      kind: 'literal',
      value,
      type: typeof value === 'number' ? 'number' : typeof value === 'string' ? 'text' : 'truth',
    };
  },
  Identifier: (raw, names) => {
    const name = raw['name'] as string;
    const type = names.get(name);
    if (type === undefined) {
      const asFunction = FUNCTION_NAMES.includes(name);
      return stop(
        raw.start ?? 0,
        `unknown name "${name}"`,
        asFunction
          ? `${name} is a function: write ${name}(...).`
          : `Names that can stand here: ${[...names.keys()].sort().join(', ') || 'none'}.`,
      );
    }
    return { kind: 'name', name, type };
  },
  UnaryExpression: (raw, names) => {
    const op = raw['operator'] as '-' | 'not';
    const arg = convert(raw['argument'] as RawNode, names);
    needType(arg, op === 'not' ? 'truth' : 'number', raw, `"${op}"`);
    return { kind: 'unary', op, arg, type: arg.type };
  },
  BinaryExpression: (raw, names) => {
    const op = raw['operator'] as string;
    const left = convert(raw['left'] as RawNode, names);
    const right = convert(raw['right'] as RawNode, names);
    if (op === 'and' || op === 'or') {
      needType(left, 'truth', raw, `"${op}"`);
      needType(right, 'truth', raw, `"${op}"`);
      return { kind: 'binary', op, left, right, type: 'truth' };
    }
    if (op === '==' || op === '!=') {
      if (left.type !== right.type)
        stop(raw.start ?? 0, `"${op}" compares a ${left.type} with a ${right.type}`, 'Compare two values of one type.');
      return { kind: 'binary', op, left, right, type: 'truth' };
    }
    needType(left, 'number', raw, `"${op}"`);
    needType(right, 'number', raw, `"${op}"`);
    return { kind: 'binary', op, left, right, type: /[<>]/.test(op) ? 'truth' : 'number' };
  },
  CallExpression: (raw, names) => {
    const callee = raw['callee'] as RawNode;
    const args = raw['arguments'] as RawNode[];
    const fn = callee.type === 'Identifier' ? (callee['name'] as string) : '';
    const at = raw.start ?? 0;
    if ((LOOKUPS as readonly string[]).includes(fn)) return convertLookup(fn as LookupName, args, at);
    if (fn === 'if') return convertIf(args, names, at);
    const known = Object.hasOwn(FUNCTIONS, fn) ? FUNCTIONS[fn] : undefined;
    if (!known) return stop(at, `unknown function "${fn}"`, `Functions: ${FUNCTION_NAMES.join(', ')}.`);
    if (args.length < known.min || args.length > known.max)
      stop(
        at,
        `${fn} takes ${known.min === known.max ? known.min : `${known.min} to ${known.max}`} values and has ${args.length}`,
        'Add or remove values.',
      );
    const converted = args.map((arg) => convert(arg, names));
    for (const arg of converted) needType(arg, 'number', raw, fn);
    return { kind: 'call', fn, args: converted, type: 'number' };
  },
};

function needType(node: Node, type: ValueType, raw: RawNode, what: string): void {
  if (node.type !== type) stop(raw.start ?? 0, `${what} needs a ${type} and has a ${node.type}`, `Give it a ${type}.`);
}

function convertLookup(lookup: LookupName, args: RawNode[], at: number): Node {
  const [arg] = args;
  if (args.length !== 1 || arg?.type !== 'Identifier')
    return stop(at, `${lookup} takes one id, without quotes`, `Write it as ${lookup}(some_id).`);
  return { kind: 'lookup', lookup, id: arg['name'] as string, type: 'number', at: at + 1 };
}

function convertIf(args: RawNode[], names: Names, at: number): Node {
  if (args.length !== 3)
    return stop(at, `if takes 3 values and has ${args.length}`, 'Write if(condition, then, otherwise).');
  const [condition, then, otherwise] = args.map((arg) => convert(arg, names)) as [Node, Node, Node];
  if (condition.type !== 'truth')
    stop(at, `if needs a truth first and has a ${condition.type}`, 'Compare something first.');
  if (then.type !== otherwise.type)
    stop(
      at,
      `both outcomes of if must have one type; they have ${then.type} and ${otherwise.type}`,
      'Give both the same type.',
    );
  return { kind: 'call', fn: 'if', args: [condition, then, otherwise], type: then.type };
}
