/** Earning rules. */
import type { ValueType } from '../formula/index.js';
import { shareCompile } from './compileTeams.js';
import { limitsCompile } from './reader.js';
import type { DocumentReader } from './reader.js';
import { durationMs } from '../schema/index.js';
import type { EarningRule } from './types.js';

export function earningCompile(reader: DocumentReader): Map<string, EarningRule> {
  const events = new Map(Object.entries(reader.document.events ?? {}));
  const rules = new Map<string, EarningRule>();
  for (const [id, written] of Object.entries(reader.document.earning ?? {})) {
    const at = ['earning', id];
    const extra = new Map(Object.entries(events.get(written.on)?.fields ?? {})) as Map<string, ValueType>;
    const chance =
      typeof written.chance === 'string'
        ? reader.formula(written.chance, 'number', [...at, 'chance'], extra)
        : written.chance;
    const loot = written.loot !== undefined && reader.lootIds.has(written.loot) ? written.loot : undefined;
    if (!written.gives && !written.takes && written.loot === undefined)
      reader.issue(
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
      when: reader.condition(written.when, [...at, 'when'], extra),
      gives: reader.quantities(written.gives ?? {}, [...at, 'gives'], extra),
      loot,
      share: shareCompile(reader, written.share, [...at, 'share']),
      takes: reader.quantities(written.takes ?? {}, [...at, 'takes'], extra),
      limits: limitsCompile(reader, written.limits, ['earning', id, 'limits']),
      cooldownMs: written.cooldown === undefined ? undefined : durationMs(written.cooldown),
    });
  }
  return rules;
}
