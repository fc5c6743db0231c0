/** Which notation a value of the economy is written in, as its JSON Schema says: for grids, CSV and forms alike. */
import { CELLS } from './cell.js';
import type { CellName } from './cell.js';

/** As much of a JSON Schema as is asked here. */
export interface JsonNode {
  type?: string | string[];
  $ref?: string;
  enum?: string[];
  pattern?: string;
  maxLength?: number;
  description?: string;
  properties?: Record<string, JsonNode>;
  additionalProperties?: JsonNode | boolean;
  required?: string[];
  /** The notation, where it does not follow from the type. */
  'x-cell'?: string;
  /** What kind of thing its values (of a map: its keys) name. */
  'x-names'?: string;
}

/** The part of a schema that a path leads to: fields by name, entries by whatever id. */
export function jsonNodeAt(root: JsonNode, path: readonly string[]): JsonNode | undefined {
  let node: JsonNode | undefined = root;
  for (const segment of path) {
    const inner: JsonNode | boolean | undefined = node?.properties?.[segment] ?? node?.additionalProperties;
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

/** The cell of a value; JSON where no notation is made for it. */
export function cellNameOf(node: JsonNode | undefined): CellName {
  const written = node?.['x-cell'];
  if (written !== undefined && Object.hasOwn(CELLS, written)) return written as CellName;
  if (node?.enum || node?.$ref?.endsWith('/id')) return 'text';
  return BY_TYPE[String(node?.type)] ?? 'json';
}
