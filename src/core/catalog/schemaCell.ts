/** Which notation a value of the economy is written in, as its JSON Schema says: for grids, CSV and forms alike. */
import { CELLS } from './cell.js';
import type { CellName } from './cell.js';

/** As much of a JSON Schema as is asked here. */
export interface JsonNode {
  type?: string | string[];
  $ref?: string;
  $defs?: Record<string, JsonNode>;
  items?: JsonNode;
  /** What people call it. */
  title?: string;
  enum?: string[];
  pattern?: string;
  maxLength?: number;
  /** A line of help. */
  description?: string;
  properties?: Record<string, JsonNode>;
  additionalProperties?: JsonNode | boolean;
  required?: string[];
  /** The notation, where it does not follow from the type. */
  'x-cell'?: string;
  /** How a person writes it into a form, where that does not follow from its type. */
  'x-form'?: string;
  /** What the options of a choice are called. */
  'x-options'?: Record<string, string>;
  /** What kind of thing its values (of a map: its keys) name. */
  'x-names'?: string;
}

/** The part of a schema that a path leads to: fields by name, entries by whatever id, those of a list by whatever number. */
export function jsonNodeAt(root: JsonNode, path: readonly string[]): JsonNode | undefined {
  let node: JsonNode | undefined = root;
  for (const segment of path) {
    const inner: JsonNode | boolean | undefined =
      node?.properties?.[segment] ?? node?.additionalProperties ?? node?.items;
    node = typeof inner === 'object' ? inner : undefined;
  }
  return node;
}

const BY_TYPE: Readonly<Record<string, CellName>> = {
  string: 'text',
  integer: 'number',
  number: 'number',
  boolean: 'yesNo',
  array: 'list',
};

/** The component that a node refers to, or the node itself. */
export const jsonResolved = (root: JsonNode, node: JsonNode): JsonNode =>
  (node.$ref === undefined ? undefined : root.$defs?.[node.$ref.split('/').at(-1)!]) ?? node;

/** The cell of a value; JSON where no notation is made for it. */
export function cellNameOf(node: JsonNode | undefined): CellName {
  const written = node?.['x-cell'];
  if (written !== undefined && Object.hasOwn(CELLS, written)) return written as CellName;
  if (node?.enum || node?.$ref?.endsWith('/id')) return 'text';
  return BY_TYPE[String(node?.type)] ?? 'json';
}
