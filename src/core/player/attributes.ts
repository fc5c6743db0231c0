/** Attributes that somebody writes for a player: whether the economy has them, and as what. */
import type { Economy } from '../economy/index.js';
import type { Value } from '../formula/index.js';
import { nearestName } from '../issue/index.js';

export interface AttributeProblem {
  attribute: string;
  message: string;
  fix: string;
}

const KINDS: Readonly<Record<string, string>> = { number: 'a number', string: 'a text', boolean: 'true or false' };

/** One for each that the economy does not have, or that is of another kind there. */
export function attributeProblems(economy: Economy, attributes: Readonly<Record<string, Value>>): AttributeProblem[] {
  const names = [...economy.attributes.keys()];
  return Object.entries(attributes).flatMap(([attribute, value]): AttributeProblem[] => {
    const start = economy.attributes.get(attribute);
    if (start === undefined) {
      const near = nearestName(attribute, names);
      return [
        {
          attribute,
          message: `players have no attribute "${attribute}"`,
          fix: near === undefined ? `Attributes: ${names.join(', ') || 'none'}.` : `Did you mean "${near}"?`,
        },
      ];
    }
    return typeof start === typeof value
      ? []
      : [
          {
            attribute,
            message: `"${attribute}" is ${KINDS[typeof start]}, and ${JSON.stringify(value)} is ${KINDS[typeof value]}`,
            fix: `Write ${KINDS[typeof start]}, such as ${String(start)}.`,
          },
        ];
  });
}
