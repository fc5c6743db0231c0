/** The JSON Schema of an economy's files. */
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
