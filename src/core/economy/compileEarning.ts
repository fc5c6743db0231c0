/** Earning rules. */
import type { ValueType } from '../formula/index.js';
import { limitsCompile } from './references.js';
import type { References } from './references.js';
import { durationMs } from '../schema/index.js';
import type { EarningRule } from './types.js';

export function earningCompile(refs: References): Map<string, EarningRule> {
  const events = new Map(Object.entries(refs.document.events ?? {}));
  const rules = new Map<string, EarningRule>();
  for (const [id, written] of Object.entries(refs.document.earning ?? {})) {
    const at = ['earning', id];
    const extra = new Map(Object.entries(events.get(written.on)?.fields ?? {})) as Map<string, ValueType>;
    const chance =
      typeof written.chance === 'string'
        ? refs.formula(written.chance, 'number', [...at, 'chance'], extra)
        : written.chance;
    const loot = written.loot !== undefined && refs.lootIds.has(written.loot) ? written.loot : undefined;
    if (!written.gives && !written.takes && written.loot === undefined)
      refs.issue(
        'missing-field',
        at,
        `the rule "${id}" neither gives nor takes`,
        'Write gives: {...}, loot: or takes: {...}.',
      );
    rules.set(id, {
      id,
      name: written.name,
      on: written.on,
      chance: chance ?? 1,
      when: refs.condition(written.when, [...at, 'when'], extra),
      gives: refs.quantities(written.gives ?? {}, [...at, 'gives'], extra),
      loot,
      takes: refs.quantities(written.takes ?? {}, [...at, 'takes'], extra),
      limits: limitsCompile(refs, written.limits, ['earning', id, 'limits']),
      cooldownMs: written.cooldown === undefined ? undefined : durationMs(written.cooldown),
    });
  }
  return rules;
}
