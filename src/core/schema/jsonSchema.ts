/** JSON Schema (2020-12) from Yup schemas: files, API and editors all check the same shape. */
import type { SchemaObjectDescription } from 'yup';
import type { AnySchema } from './blocks.js';

interface Meta {
  json?: object;
  map?: AnySchema;
  keyPattern?: string;
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
