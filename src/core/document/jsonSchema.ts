/** The JSON Schema of an economy's files. */
import { MAX_UNITS } from '../amount/index.js';
import { economySchema } from './schema.js';
import { moneyPrice } from './schemaPrice.js';
import { ID_PATTERN, schemaToJson } from '../schema/index.js';

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
