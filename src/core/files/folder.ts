/**
 * An economy folder is any number of YAML or JSON files whose sections are merged by id. This module
 * reads the texts (never the disk) into one document and remembers where everything stood, and writes
 * changes back into the texts so that comments and layout survive.
 */
import { LineCounter, isMap, isScalar, parseDocument, visit } from 'yaml';
import type { Document, Node, Pair, YAMLMap } from 'yaml';
import fastJsonPatch from 'fast-json-patch';
import type { Operation } from 'fast-json-patch';
import { pointerOf, pointerSegments } from '../issue/index.js';
import type { Issue, Place } from '../issue/index.js';
import { quoted } from '../schema/index.js';
import { SECTIONS, reordered, valueAt } from '../document/index.js';
import type { EconomyDocument, Renaming } from '../document/index.js';
import { lineEnd, textBrought, textEdited } from './textEdit.js';
import type { TextEdit } from './textEdit.js';

export interface SourceFile {
  path: string;
  text: string;
}

/** The largest file that is read, in characters. */
export const MAX_FILE_LENGTH = 5_000_000;

interface ParsedFile extends SourceFile {
  yaml: Document;
  lines: LineCounter;
}

export interface FolderRead {
  /** The merged document; not yet checked against the schema. */
  raw: Record<string, unknown>;
  issues: Issue[];
  /** The file position of a pointer, or of the nearest thing above it that was written. */
  placeOf(pointer: string): Place | undefined;
}

const SECTION_NAMES: readonly string[] = SECTIONS;

/** Merges the files in the order of their paths. All syntax errors and duplicate ids are reported at once. */
export function folderRead(files: readonly SourceFile[]): FolderRead {
  const issues: Issue[] = [];
  const parsed: ParsedFile[] = [];
  let entries = 0;
  for (const file of [...files].sort((a, b) => (a.path < b.path ? -1 : 1))) {
    if (file.text.length > MAX_FILE_LENGTH) {
      issues.push({
        code: 'file-too-large',
        pointer: '',
        message: `${file.path} has ${file.text.length} characters and ${MAX_FILE_LENGTH} is the most`,
        fix: 'Split it into several files.',
        place: { file: file.path, line: 1, column: 1 },
      });
      continue;
    }
    entries += entriesIn(file.text);
    if (entries > MOST_ENTRIES) {
      issues.push({
        code: 'file-too-large',
        pointer: '',
        message: `with ${file.path} there are more than ${MOST_ENTRIES} lines and commas, which is the most that all files may have`,
        fix: 'Leave out what is not needed.',
        place: { file: file.path, line: 1, column: 1 },
      });
      break;
    }
    const lines = new LineCounter();
    // The parser compares each key with all before it; what stands twice is looked for below, each key once.
    const yaml = parseDocument(file.text, { lineCounter: lines, prettyErrors: false, strict: true, uniqueKeys: false });
    const one = { ...file, yaml, lines };
    parsed.push(one);
    // One slip can make the parser report the same place twice.
    const distinct = new Map(yaml.errors.map((error) => [`${error.code} ${error.pos[0]}`, error]));
    for (const { message, pos } of distinct.values()) issues.push(yamlIssue(one, message, pos[0]));
    for (const issue of contentIssues(one)) issues.push(issue);
  }
  const owners = new Map<string, ParsedFile>();
  const raw = issues.length > 0 ? {} : merge(parsed, owners, issues);
  return { raw, issues, placeOf: (pointer) => placeOf(pointer, owners) };
}

/** To parse an entry takes 25 microseconds, however short it is. */
const MOST_ENTRIES = 300_000;

/** About how many entries a text has, counted quickly: each stands on a line of its own, or after a comma. */
function entriesIn(text: string): number {
  let count = 1;
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code === LINE_END || code === COMMA) count++;
  }
  return count;
}

const LINE_END = 10;
const COMMA = 44;

function placeAt(file: ParsedFile, offset: number): Place {
  const { line, col } = file.lines.linePos(offset);
  return { file: file.path, line, column: col };
}

const yamlIssue = (file: ParsedFile, message: string, offset: number): Issue => ({
  code: 'yaml-syntax',
  pointer: '',
  message: message.replace(/\s+/g, ' '),
  fix: 'Check indentation, quotes and brackets here and in the line above.',
  place: placeAt(file, offset),
});

/** Keys that stand twice in one group, and more aliases than are followed: each is looked for through the whole file. */
function contentIssues(file: ParsedFile): Issue[] {
  const issues: Issue[] = [];
  let aliases = 0;
  visit(file.yaml, {
    Map: (_, { items }) => {
      const seen = new Set<string>();
      for (const { key } of items as Pair[]) {
        const name = isScalar(key) ? String(key.value) : undefined;
        if (issues.length >= MOST_ISSUES) return visit.BREAK;
        if (name !== undefined && seen.has(name))
          issues.push({
            code: 'duplicate-id',
            pointer: '',
            message: `"${quoted(name)}" stands twice in one group`,
            fix: 'Rename or remove one of them.',
            place: placeAt(file, (key as Node).range?.[0] ?? 0),
          });
        if (name !== undefined) seen.add(name);
      }
      return undefined;
    },
    Alias: (_, { range }) => {
      if (++aliases <= MOST_ALIASES) return undefined;
      issues.push({ ...aliasIssue(file, `more than ${MOST_ALIASES} aliases`), place: placeAt(file, range?.[0] ?? 0) });
      return visit.BREAK;
    },
  });
  return issues;
}

const MOST_ALIASES = 100;
/** Of one kind in one file; the first of them are told, and more help nobody. */
const MOST_ISSUES = 1000;
const aliasIssue = (file: ParsedFile, message: string): Issue => ({
  code: 'yaml-syntax',
  pointer: '',
  message,
  fix: 'Write the values out instead of repeating them by alias.',
  place: { file: file.path, line: 1, column: 1 },
});

/** Where a file says for editors what it looks like; no part of the economy. */
const SCHEMA_KEY = '$schema';

function merge(
  parsed: readonly ParsedFile[],
  owners: Map<string, ParsedFile>,
  issues: Issue[],
): Record<string, unknown> {
  const raw: Record<string, unknown> = {};
  for (const file of parsed) {
    const content = toPlain(file, issues);
    if (content === undefined || content === null) continue;
    if (typeof content !== 'object' || Array.isArray(content)) {
      issues.push({
        code: 'wrong-type',
        pointer: '',
        message: `${file.path} holds no named sections`,
        fix: `Begin it with a section such as items: or shops:. Sections: ${SECTION_NAMES.join(', ')}.`,
        place: { file: file.path, line: 1, column: 1 },
      });
      continue;
    }
    for (const [section, value] of Object.entries(content))
      if (section !== SCHEMA_KEY) mergeSection(file, section, value, raw, owners, issues);
  }
  return raw;
}

function toPlain(file: ParsedFile, issues: Issue[]): unknown {
  try {
    return file.yaml.toJS({ maxAliasCount: MOST_ALIASES });
  } catch (error) {
    issues.push(aliasIssue(file, (error as Error).message));
    return undefined;
  }
}

function mergeSection(
  file: ParsedFile,
  section: string,
  value: unknown,
  raw: Record<string, unknown>,
  owners: Map<string, ParsedFile>,
  issues: Issue[],
): void {
  const entries =
    SECTION_NAMES.includes(section) && typeof value === 'object' && value !== null && !Array.isArray(value)
      ? Object.entries(value)
      : undefined;
  if (!entries) {
    if (Object.hasOwn(raw, section)) duplicate(pointerOf([section]), section, file, owners, issues);
    else {
      raw[section] = value;
      owners.set(pointerOf([section]), file);
    }
    return;
  }
  const target = (raw[section] ??= {}) as Record<string, unknown>;
  if (!owners.has(pointerOf([section]))) owners.set(pointerOf([section]), file);
  for (const [id, entry] of entries) {
    const pointer = pointerOf([section, id]);
    if (Object.hasOwn(target, id)) duplicate(pointer, id, file, owners, issues);
    else {
      target[id] = entry;
      owners.set(pointer, file);
    }
  }
}

function duplicate(
  pointer: string,
  id: string,
  file: ParsedFile,
  owners: Map<string, ParsedFile>,
  issues: Issue[],
): void {
  const first = placeOf(pointer, owners);
  issues.push({
    code: 'duplicate-id',
    pointer,
    message: `"${id}" is already defined${first ? ` in ${first.file}, line ${first.line}` : ''}`,
    fix: 'Rename or remove one of them.',
    place: nodePlace(file, pointerSegments(pointer)),
  });
}

function placeOf(pointer: string, owners: ReadonlyMap<string, ParsedFile>): Place | undefined {
  const segments = pointerSegments(pointer);
  const file =
    owners.get(pointerOf(segments.slice(0, 2))) ??
    owners.get(pointerOf(segments.slice(0, 1))) ??
    owners.values().next().value;
  return file && nodePlace(file, segments);
}

/** The key of the deepest part of the path that the file holds. */
function nodePlace(file: ParsedFile, segments: readonly string[]): Place {
  let node: unknown = file.yaml.contents;
  let offset = (node as Node | null)?.range?.[0] ?? 0;
  for (const segment of segments) {
    const next = childOf(node, segment);
    if (!next) break;
    offset = next.offset;
    node = next.node;
  }
  return placeAt(file, offset);
}

function childOf(node: unknown, segment: string): { node: unknown; offset: number } | undefined {
  if (isMap(node)) {
    const pair = pairsOf(node as YAMLMap).get(segment);
    return pair && { node: pair.value, offset: (pair.key as Node).range?.[0] ?? 0 };
  }
  const items = (node as { items?: unknown[] } | null)?.items;
  const item = items?.[Number(segment)];
  return item === undefined ? undefined : { node: item, offset: (item as Node).range?.[0] ?? 0 };
}

/** The pairs of a group by their keys, the first of each. A cache only: a group that is written into has another count. */
const pairs = new WeakMap<YAMLMap, { count: number; byKey: Map<string, Pair> }>();

function pairsOf(map: YAMLMap): Map<string, Pair> {
  const known = pairs.get(map);
  if (known?.count === map.items.length) return known.byKey;
  const byKey = new Map<string, Pair>();
  for (const pair of [...(map.items as Pair[])].reverse())
    if (isScalar(pair.key)) byKey.set(String(pair.key.value), pair);
  pairs.set(map, { count: map.items.length, byKey });
  return byKey;
}

/** The file that a new entry of a section goes to when nothing of that section is there yet. */
const DEFAULT_FILES: Readonly<Record<(typeof SECTIONS)[number], string>> = {
  attributes: 'economy.yaml',
  events: 'economy.yaml',
  groups: 'items.yaml',
  currencies: 'currencies.yaml',
  items: 'items.yaml',
  loot: 'loot.yaml',
  stores: 'shops.yaml',
  shops: 'shops.yaml',
  sales: 'sales.yaml',
  texts: 'texts.yaml',
  earning: 'earning.yaml',
  goals: 'goals.yaml',
  tracks: 'goals.yaml',
  teams: 'goals.yaml',
  rankings: 'goals.yaml',
  activities: 'players.yaml',
  personas: 'players.yaml',
  scenarios: 'players.yaml',
  targets: 'balance.yaml',
  levers: 'balance.yaml',
  cases: 'cases.yaml',
};
const defaultFile = (section: string): string =>
  Object.hasOwn(DEFAULT_FILES, section)
    ? DEFAULT_FILES[section as keyof typeof DEFAULT_FILES]
    : DEFAULT_FILES.attributes;

/**
 * The texts of a folder brought to `wanted`: only what differs is rewritten, so comments and layout stay.
 * Pass no files to write a fresh folder. Reading the result gives `wanted` again, in content.
 */
export function folderWrite(files: readonly SourceFile[], wanted: EconomyDocument): SourceFile[] {
  const current = folderRead(files);
  const documents = new Map<string, Document>(files.map((file) => [file.path, parseDocument(file.text)]));
  const touched = new Set<Document>();
  for (const operation of fastJsonPatch.compare(current.raw, wanted)) {
    for (const [segments, value] of splitOperation(operation, current.raw)) {
      const document = documentFor(segments, current, documents);
      touched.add(document);
      if (operation.op === 'remove') document.deleteIn(nativePath(document, segments));
      else setIn(document, segments, value);
    }
  }
  for (const path of reordered(current.raw as EconomyDocument, wanted))
    for (const document of documents.values()) if (reorder(document, path, wanted)) touched.add(document);
  const original = new Map(files.map((file) => [file.path, file]));
  return [...documents].map(([path, document]) => {
    const before = original.get(path);
    if (before && !touched.has(document)) return before;
    const edited = before && textBrought(before.text, document.toJS(), /\.json$/i.test(path));
    return { path, text: edited ?? writtenAnew(document, before?.text ?? '') };
  });
}

/** In the parser's own layout, where edits will not do. */
function writtenAnew(document: Document, before: string): string {
  const mark = before.startsWith('\uFEFF') ? '\uFEFF' : '';
  return mark + document.toString({ lineWidth: 0 }).replaceAll('\n', lineEnd(before));
}

/** Gives fields their new names where they stand. */
export function folderRename(files: readonly SourceFile[], renamings: readonly Renaming[]): SourceFile[] {
  const current = folderRead(files);
  const documents = new Map<string, Document>(files.map((file) => [file.path, parseDocument(file.text)]));
  const edits = new Map<Document, TextEdit[]>([...documents.values()].map((document) => [document, []]));
  for (const { pointer, name } of renamings) {
    const path = pointerSegments(pointer);
    const document = documentFor(path, current, documents);
    const group = document.getIn(nativePath(document, path.slice(0, -1)));
    for (const { key } of isMap(group) ? group.items : []) {
      if (!isScalar(key) || key.value !== path.at(-1) || !key.range) continue;
      const [from, to] = key.range;
      const isPlain = key.type === 'PLAIN';
      edits.get(document)!.push({ from, to, text: isPlain ? name : JSON.stringify(name) });
    }
  }
  return files.map(({ path, text }) => ({ path, text: textEdited(text, edits.get(documents.get(path)!)!)! }));
}

/** Brings the entries of one group into the wanted order; false where this file does not hold it, or only one of them. */
function reorder(document: Document, segments: readonly string[], wanted: EconomyDocument): boolean {
  const node = document.getIn(segments);
  if (!isMap(node)) return false;
  const order = Object.keys(valueAt(wanted, segments) as object);
  const rank = ({ key }: Pair): number => order.indexOf(String(isScalar(key) ? key.value : key));
  const sorted = [...(node as YAMLMap).items].sort((a, b) => rank(a) - rank(b));
  const same = sorted.every((pair, index) => pair === (node as YAMLMap).items[index]);
  (node as YAMLMap).items = sorted;
  return !same;
}

/** The file that holds what the path leads to, or its section, or else the section's default file. */
function documentFor(segments: readonly string[], current: FolderRead, documents: Map<string, Document>): Document {
  const present = Object.hasOwn(current.raw, segments[0]!)
    ? current.placeOf(pointerOf(segments.slice(0, 2)))?.file
    : undefined;
  const path = present ?? folderOf([...documents.keys()]) + defaultFile(segments[0]!);
  let document = documents.get(path);
  if (!document) {
    document = parseDocument('{}\n');
    document.contents = null;
    documents.set(path, document);
  }
  return document;
}

/** What the paths of all files begin with, up to a slash: a file that is new stands beside them. */
function folderOf([first = '', ...others]: readonly string[]): string {
  let folder = first.slice(0, first.search(/[^/\\]*$/));
  while (!others.every((path) => path.startsWith(folder)))
    folder = folder.slice(0, folder.slice(0, -1).search(/[^/\\]*$/));
  return folder;
}

/** A section that goes is split into its entries, since they may stand in several files. */
function splitOperation(operation: Operation, raw: Record<string, unknown>): [string[], unknown][] {
  const segments = pointerSegments(operation.path);
  const value = 'value' in operation ? (operation.value as unknown) : undefined;
  if (operation.op === 'remove' && segments.length === 1 && SECTION_NAMES.includes(segments[0]!)) {
    return Object.keys(raw[segments[0]!] as object).map((id) => [[segments[0]!, id], undefined]);
  }
  return [[segments, value]];
}

function nativePath(document: Document, segments: readonly string[]): (string | number)[] {
  let node: unknown = document.contents;
  return segments.map((segment) => {
    const key = isMap(node) ? segment : Number(segment);
    node = childOf(node, segment)?.node;
    return key;
  });
}

function setIn(document: Document, segments: readonly string[], value: unknown): void {
  if (document.contents === null) document.contents = document.createNode({}) as never;
  for (let depth = 1; depth < segments.length; depth++) {
    const parent = segments.slice(0, depth);
    const node = document.getIn(nativePath(document, parent));
    if (node === undefined || node === null) document.setIn(nativePath(document, parent), document.createNode({}));
  }
  document.setIn(nativePath(document, segments), document.createNode(value));
}
