/** JSON Schema (2020-12) from the Yup schemas: files, API and editors all check the same shape. */
import type { SchemaObjectDescription } from 'yup';
import { MAX_UNITS } from '../amount/index.js';
import { economySchema } from './schema.js';
import { moneyPrice } from './schemaPrice.js';
import { ID_PATTERN } from './shapes.js';
import type { AnySchema } from './shapes.js';

interface Meta {
  json?: object;
  map?: AnySchema;
  keyPattern?: string;
}

/** The schema of a whole economy document, self-contained. */
export function economyJsonSchema(): object {
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'Economy',
    description: "A live game's economy. Amounts are written in display units, up to the asset's decimals.",
    ...schemaToJson(economySchema),
    $defs: {
      id: { type: 'string', pattern: ID_PATTERN.source },
      amount: {
        oneOf: [
          { type: 'number', minimum: 0, maximum: MAX_UNITS },
          { type: 'string', pattern: '^=' },
        ],
      },
      basket: {
        type: 'object',
        propertyNames: { pattern: ID_PATTERN.source },
        additionalProperties: { $ref: '#/$defs/amount' },
      },
      moneyPrice: schemaToJson(moneyPrice),
    },
  };
}

/** Converts one schema made of the blocks in `shapes.ts`. Unknown blocks become `{}`: anything. */
export function schemaToJson(schema: AnySchema): object {
  const meta = schema.meta() as Meta | undefined;
  if (meta?.json) return meta.json;
  if (meta?.map)
    return {
      type: 'object',
      propertyNames: { pattern: meta.keyPattern },
      additionalProperties: schemaToJson(meta.map),
    };
  const inner = (schema as unknown as { fields?: Record<string, AnySchema> }).fields;
  if (!inner) return {};
  const description = schema.describe() as SchemaObjectDescription;
  const required = Object.entries(description.fields)
    .filter(([, field]) => 'optional' in field && !field.optional)
    .map(([key]) => key);
  return {
    type: 'object',
    additionalProperties: false,
    ...(required.length > 0 ? { required } : {}),
    properties: Object.fromEntries(Object.entries(inner).map(([key, field]) => [key, schemaToJson(field)])),
  };
}
