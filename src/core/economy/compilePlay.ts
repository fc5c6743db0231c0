/** Earning rules, and the references of activities, personas and scenarios. */
import type { ValueType } from '../formula/index.js';
import { limitsCompile } from './references.js';
import type { References, Segments } from './references.js';
import { durationMs, isFormula } from '../schema/index.js';
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

/** Activities and personas are read by the simulator; here what they hold is checked. */
export function playCheck(refs: References): void {
  for (const [id, activity] of Object.entries(refs.document.activities ?? {})) {
    refs.fixedBasket(activity.needs, ['activities', id, 'needs']);
    for (const [event, written] of Object.entries(activity.emits))
      emitCheck(refs, ['activities', id, 'emits', event], event, written);
  }
  for (const [id, persona] of Object.entries(refs.document.personas ?? {}))
    refs.fixedBasket(persona.shops.keeps, ['personas', id, 'shops', 'keeps']);
}

function emitCheck(refs: References, at: Segments, event: string, written: Record<string, unknown>): void {
  const fields = new Map(Object.entries(refs.document.events?.[event]?.fields ?? {}));
  for (const [field, drawn] of Object.entries(written))
    if (fields.has(field) && isFormula(drawn)) refs.formula(drawn, fields.get(field)!, [...at, field]);
  for (const field of fields.keys())
    if (!Object.hasOwn(written, field))
      refs.issue(
        'missing-field',
        at,
        `the event "${event}" has a field "${field}" that is not drawn`,
        `Write ${field}: with a value or a way to draw it.`,
      );
}
