/** Changes of a file's text: only what differs is written, and all else stays to the byte. */
import { isAlias, isCollection, isMap, isNode, isScalar, parseDocument, stringify } from 'yaml';
import type { Document, Node, Pair, Scalar, YAMLMap } from 'yaml';
import fastJsonPatch from 'fast-json-patch';

/** What stands from one offset to another, and what is to stand there. */
export interface TextEdit {
  from: number;
  to: number;
  text: string;
}

/** The text with all edits, or undefined where two of them meet. */
export function textEdited(text: string, edits: readonly TextEdit[]): string | undefined {
  const parts: string[] = [];
  let done = 0;
  for (const edit of [...edits].sort((a, b) => a.from - b.from || a.to - b.to)) {
    if (edit.from < done) return undefined;
    parts.push(text.slice(done, edit.from), edit.text);
    done = edit.to;
  }
  return parts.join('') + text.slice(done);
}

export const lineEnd = (text: string): string => (text.includes('\r\n') ? '\r\n' : '\n');

/**
 * The text brought to other content, in its order, or undefined where that takes more than edits: aliases, a group that
 * is left without entries, order within order, a comment within what is replaced.
 */
export function textBrought(text: string, wanted: unknown, isJson = false): string | undefined {
  try {
    const before = new Bringing(text, isJson);
    before.order(wanted);
    const ordered = before.edited === text ? before : new Bringing(before.edited, isJson);
    ordered.bring(wanted);
    const brought = ordered.edited;
    const read = parseDocument(brought);
    const isRight = read.errors.length === 0 && JSON.stringify(read.toJS()) === JSON.stringify(wanted);
    return isRight ? brought : undefined;
  } catch (error) {
    if (error instanceof Unfit) return undefined;
    throw error;
  }
}

/** Thrown where edits will not do. */
class Unfit extends Error {}

const isSame = (one: unknown, other: unknown): boolean => fastJsonPatch.compare([one], [other]).length === 0;
const isGroup = (value: unknown): value is Record<string, unknown> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);

class Bringing {
  private readonly found: TextEdit[] = [];
  private readonly yaml: Document;

  constructor(
    private readonly text: string,
    private readonly isJson: boolean,
  ) {
    this.yaml = parseDocument(text);
  }

  get edited(): string {
    const edited = textEdited(this.text, this.found);
    if (edited === undefined) throw new Unfit();
    return edited;
  }

  // --- order

  /** Entries that stay stand in the wanted order, each with the comment above it. */
  order(wanted: unknown, node: unknown = this.yaml.contents): void {
    if (!isMap(node) || !isGroup(wanted)) return;
    const pairs = node.items as Pair[];
    const rank = new Map(Object.keys(wanted).map((name, place) => [name, place]));
    const ranks = pairs.map((pair) => rank.get(nameOf(pair)));
    const kept = ranks.filter((one) => one !== undefined);
    if (kept.every((one, place) => place === 0 || kept[place - 1]! < one)) {
      for (const pair of pairs) this.order(wanted[nameOf(pair)], pair.value);
      return;
    }
    // What goes stays behind what it stands behind now, until it goes.
    let last = -1;
    const places = ranks.map((one, place) => ({ place, rank: (last = one ?? last) }));
    const order = places.sort((a, b) => a.rank - b.rank).map(({ place }) => place);
    const pieces = node.flow ? pairs.map((pair) => [this.startOf(pair), this.endOf(pair)] as const) : this.lines(pairs);
    for (const [place, [from, to]] of pieces.entries()) {
      const moved = this.text.slice(...pieces[order[place]!]!);
      const needsEnd = !node.flow && !moved.endsWith('\n');
      this.found.push({ from, to, text: needsEnd ? moved + lineEnd(this.text) : moved });
    }
  }

  /** The lines of each entry, with the comments right above it; those above the first are of the whole group. */
  private lines(pairs: readonly Pair[]): (readonly [number, number])[] {
    const starts = pairs.map((pair, place) => {
      let start = this.ownLine(pair);
      while (place > 0 && start > this.endOf(pairs[place - 1]!)) {
        const above = this.lineStart(start - 1);
        if (!this.text.slice(above, start).trimStart().startsWith('#')) break;
        start = above;
      }
      return start;
    });
    const end = this.nextLine(this.endOf(pairs.at(-1)!));
    return starts.map((start, place) => [start, starts[place + 1] ?? end] as const);
  }

  // --- content

  bring(wanted: unknown, node: unknown = this.yaml.contents): void {
    if (isMap(node) && isGroup(wanted)) this.bringMap(node as YAMLMap, wanted);
    else if (isNode(node) && !isSame(node.toJS(this.yaml), wanted)) this.replace(node, wanted);
  }

  private bringMap(map: YAMLMap, wanted: Record<string, unknown>): void {
    const pairs = map.items as Pair[];
    const stays = pairs.map((pair) => Object.hasOwn(wanted, nameOf(pair)));
    for (const [place, pair] of pairs.entries()) if (stays[place]) this.bringPair(pair, wanted[nameOf(pair)], map);
    if (stays.includes(true)) {
      if (map.flow) this.removeFlow(pairs, stays);
      else this.removeLines(pairs, stays);
      this.add(map, pairs, stays, wanted);
    } else if (map.flow) {
      const inside = Object.entries(wanted).map((entry) => this.entry(entry));
      const text = inside.length === 0 ? '' : ` ${inside.join(', ')} `;
      if (pairs.length + inside.length > 0) this.found.push({ from: map.range![0] + 1, to: map.range![1] - 1, text });
    } else throw new Unfit();
  }

  private bringPair(pair: Pair, wanted: unknown, within: YAMLMap): void {
    const { value } = pair;
    if (!within.flow && this.fillLines(pair, wanted)) return;
    const isBlock = isCollection(value) && !value.flow;
    if (!isBlock || (isMap(value) && isGroup(wanted))) this.bring(wanted, value);
    else if (!isSame(value.toJS(this.yaml), wanted)) {
      // What stood on lines of its own goes behind its name.
      const from = (pair.key as Scalar).range![1];
      this.put(from, this.endOf(pair), `: ${this.flow(wanted)}`);
    }
  }

  /** Things that come where `{}` stood have a line each; amounts and the like stay on one. */
  private fillLines({ key, value }: Pair, wanted: unknown): boolean {
    const isEmpty = isMap(value) && value.flow && value.items.length === 0 && !this.isJson;
    if (!isEmpty || !isGroup(wanted) || !Object.values(wanted).some(isGroup)) return false;
    const name = (key as Scalar).range!;
    const [from, to] = value.range!;
    const pad = ' '.repeat(name[0] - this.lineStart(name[0]) + 2);
    const lines = Object.entries(wanted).map((entry) => pad + this.entry(entry) + lineEnd(this.text));
    this.put(name[1], to, ':');
    const at = this.nextLine(from);
    const isOpen = this.text[at - 1] !== '\n';
    this.found.push({ from: at, to: at, text: (isOpen ? lineEnd(this.text) : '') + lines.join('') });
    return true;
  }

  private replace(node: Node, wanted: unknown): void {
    const { range } = node;
    if (!range || isAlias(node)) throw new Unfit();
    const [from, to] = range;
    if (isScalar(node) && isBlock(node)) {
      this.found.push({ from, to, text: this.block(wanted, node, this.text.slice(from, to)) });
      return;
    }
    const text = isScalar(node) && isQuoted(node) ? this.scalar(wanted, node.type) : this.flow(wanted);
    // Where nothing stood, it stands right behind the colon.
    const isBare = from === to && !/\s/.test(this.text[from - 1] ?? ' ');
    this.put(from, to, isBare ? ` ${text}` : text);
  }

  /** In place of what may hold a comment on lines of its own, which would be lost. */
  private put(from: number, to: number, text: string): void {
    if (/\n\s*#|\s#.*\n/.test(this.text.slice(from, to))) throw new Unfit();
    this.found.push({ from, to, text });
  }

  private removeFlow(pairs: readonly Pair[], stays: readonly boolean[]): void {
    const last = stays.lastIndexOf(true);
    for (let place = 0; place < last; place++) {
      if (stays[place]) continue;
      const next = stays.indexOf(true, place);
      this.put(this.startOf(pairs[place]!), this.startOf(pairs[next]!), '');
      place = next;
    }
    if (last < pairs.length - 1) this.put(this.endOf(pairs[last]!), this.endOf(pairs.at(-1)!), '');
  }

  private removeLines(pairs: readonly Pair[], stays: readonly boolean[]): void {
    for (const [place, pair] of pairs.entries())
      if (!stays[place]) this.found.push({ from: this.ownLine(pair), to: this.nextLine(this.endOf(pair)), text: '' });
  }

  /** What is new stands behind what it is behind in the wanted order, or before all others. */
  private add(map: YAMLMap, pairs: readonly Pair[], stays: readonly boolean[], wanted: Record<string, unknown>): void {
    const known = new Map(pairs.map((pair) => [nameOf(pair), pair]));
    const first = pairs[stays.indexOf(true)]!;
    let behind: Pair | undefined;
    for (const [name, value] of Object.entries(wanted)) {
      const pair = known.get(name);
      if (pair) behind = pair;
      else if (map.flow) {
        const at = behind ? this.endOf(behind) : this.startOf(first);
        const entry = this.entry([name, value]);
        this.found.push({ from: at, to: at, text: behind ? `, ${entry}` : `${entry}, ` });
      } else
        this.addLines(behind ? this.nextLine(this.endOf(behind)) : this.ownLine(first), behind ?? first, name, value);
    }
  }

  /** On one line where its neighbour is. */
  private addLines(at: number, beside: Pair, name: string, value: unknown): void {
    const pad = ' '.repeat(this.startOf(beside) - this.lineStart(this.startOf(beside)));
    const eol = lineEnd(this.text);
    const isOnOne = isMap(beside.value) && beside.value.flow && isGroup(value);
    const lines = isOnOne
      ? [this.entry([name, value])]
      : stringify({ [name]: value }, { lineWidth: 0 })
          .trimEnd()
          .split('\n');
    const text = lines.map((line) => (line === '' ? line : pad + line) + eol).join('');
    const isOpen = at > 0 && this.text[at - 1] !== '\n';
    this.found.push({ from: at, to: at, text: isOpen ? eol + text : text });
  }

  // --- places

  private readonly startOf = ({ key }: Pair): number => (key as Scalar).range![0];

  /** Behind the last thing that it says. */
  private endOf({ key, value }: Pair): number {
    const end = (value as Node | null)?.range?.[1] ?? (key as Scalar).range![1];
    return this.text.slice(0, end).trimEnd().length;
  }

  private readonly lineStart = (offset: number): number => this.text.lastIndexOf('\n', offset - 1) + 1;

  private nextLine(offset: number): number {
    const end = this.text.indexOf('\n', offset);
    return end < 0 ? this.text.length : end + 1;
  }

  /** Where the line of an entry begins that has its lines for itself. */
  private ownLine(pair: Pair): number {
    const start = this.lineStart(this.startOf(pair));
    if (this.text.slice(start, this.startOf(pair)).trim() !== '') throw new Unfit();
    return start;
  }

  // --- words

  private readonly entry = ([name, value]: [string, unknown]): string => `${this.scalar(name)}: ${this.flow(value)}`;

  /** On one line, as it may stand in a group of one line too. */
  private flow(value: unknown): string {
    if (this.isJson) return JSON.stringify(value);
    if (Array.isArray(value)) return `[${value.map((one) => this.flow(one)).join(', ')}]`;
    if (!isGroup(value)) return this.scalar(value);
    const inside = Object.entries(value).map(this.entry);
    return inside.length === 0 ? '{}' : `{ ${inside.join(', ')} }`;
  }

  private scalar(value: unknown, style?: Scalar['type']): string {
    if (this.isJson) return JSON.stringify(value);
    const quotes = style === undefined ? {} : { defaultStringType: style as 'QUOTE_DOUBLE' };
    const options = { collectionStyle: 'flow', flowCollectionPadding: false, lineWidth: 0, ...quotes } as const;
    return stringify([value], options).trim().slice(1, -1);
  }

  /** In place of a text on lines of its own, as deep as that was; what has no lines stands right there. */
  private block(wanted: unknown, { type }: Scalar, before: string): string {
    const eol = lineEnd(this.text);
    if (typeof wanted !== 'string' || !wanted.includes('\n')) return this.flow(wanted) + eol;
    const pad = /\n( +)\S/.exec(before)?.[1];
    if (pad === undefined) throw new Unfit();
    const isFolded = type === 'BLOCK_FOLDED';
    const written = stringify(
      { it: wanted },
      { blockQuote: isFolded ? 'folded' : 'literal', lineWidth: isFolded ? FOLDED_AT : 0 },
    );
    const [head, ...lines] = written.slice('it: '.length).split('\n');
    return [head, ...lines.map((line) => (line === '' ? '' : pad + line.slice(2)))].join(eol);
  }
}

/** How wide a text is that is folded. */
const FOLDED_AT = 100;

function nameOf({ key }: Pair): string {
  if (!isScalar(key)) throw new Unfit();
  return String(key.value);
}

const isBlock = ({ type }: Scalar): boolean => type === 'BLOCK_LITERAL' || type === 'BLOCK_FOLDED';
const isQuoted = ({ type }: Scalar): boolean => type === 'QUOTE_DOUBLE' || type === 'QUOTE_SINGLE';
