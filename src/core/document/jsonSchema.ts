/** The JSON Schemas of a whole economy, and of one file of its folder. */
import { JsonComponents } from '../schema/index.js';
import { economySchema } from './schema.js';

/** The schema of a whole economy document, self-contained. */
export function economyJsonSchema(): object {
  const components = new JsonComponents('#/$defs/');
  const shape = components.shape(economySchema);
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'Economy',
    description: "A live game's economy. Amounts are written in display units, up to the asset's decimals.",
    ...shape,
    $defs: components.schemas,
  };
}

/** The schema of one file of a folder: it may hold any sections, and none is missing. It may name its schema. */
export function economyFileJsonSchema(): object {
  const { properties, required: _, ...schema } = economyJsonSchema() as { properties: object; required: unknown };
  return {
    ...schema,
    title: 'Economy file',
    properties: { $schema: { type: 'string', description: 'Where this schema is, for editors.' }, ...properties },
  };
}
