/** What the schema says of each step of a path: so that words, references and edits need no list of places. */
import { blockOf, fieldsOf, marksOf } from '../schema/index.js';
import type { AnySchema, Block, RefKind } from '../schema/index.js';
import { economySchema } from './schema.js';

type Path = readonly string[];

/** One thing on the way along a path. */
export interface Step {
  path: Path;
  /** Of several shapes, the one that the value has; undefined where it has none. */
  block: Block | undefined;
  /** What the last segment of the path names, where it is a key that names something. */
  names: RefKind | undefined;
  /** The path of the nearest thing around it that cannot do without a part of it. */
  wholeAround: Path | undefined;
}

/** The steps from the document to where `path` leads, as far as the schema knows it; both ends included. */
export function walkAlong(document: unknown, path: Path): Step[] {
  const steps: Step[] = [];
  let schema: AnySchema | undefined = economySchema;
  let value: unknown = document;
  let names: RefKind | undefined;
  let wholeAround: Path | undefined;
  for (let depth = 0; schema; depth++) {
    const at = path.slice(0, depth);
    const { goes } = marksOf(schema);
    if (goes !== undefined) wholeAround = goes === 'part' ? undefined : at;
    const shape = shapeOfValue(schema, value);
    const block: Block | undefined = shape && blockOf(shape);
    steps.push({ path: at, block, names, wholeAround });
    const key = path[depth];
    if (key === undefined || !shape || !block) break;
    names = block.kind === 'map' ? block.keys.ref : undefined;
    schema =
      block.kind === 'fields'
        ? fieldsOf(shape)[key]
        : block.kind === 'map' || block.kind === 'list'
          ? block.inner
          : undefined;
    value = typeof value === 'object' && value !== null ? (value as Record<string, unknown>)[key] : undefined;
  }
  return steps;
}

/** Of several shapes, the one that a value has. */
export function shapeOfValue(schema: AnySchema, value: unknown): AnySchema | undefined {
  const block = blockOf(schema);
  if (block.kind !== 'either') return schema;
  const option = block.options.find(({ fits }) => fits(value));
  return option && shapeOfValue(option.schema, value);
}

/** Whether a block holds amounts by asset. */
export const isBasketBlock = (block: Block | undefined): boolean => block?.kind === 'map' && block.keys.ref === 'asset';
