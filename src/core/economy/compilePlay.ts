/** Earning rules, and the references of activities, personas and scenarios. */
import type { ValueType } from '../formula/index.js';
import { limitsCompile } from './references.js';
import type { References, Segments } from './references.js';
import { durationMs } from '../schema/index.js';
import type { EarningRule } from './types.js';

export function earningCompile(refs: References): Map<string, EarningRule> {
  const events = new Map(Object.entries(refs.document.events ?? {}));
  const rules = new Map<string, EarningRule>();
  for (const [id, written] of Object.entries(refs.document.earning ?? {})) {
    const at = ['earning', id];
    refs.refers(events, 'event', written.on, [...at, 'on']);
    const extra = new Map(Object.entries(events.get(written.on)?.fields ?? {})) as Map<string, ValueType>;
    const chance =
      typeof written.chance === 'string'
        ? refs.formula(written.chance, 'number', [...at, 'chance'], extra)
        : written.chance;
    const loot =
      written.loot !== undefined && refs.refers(refs.lootIds, 'loot table', written.loot, [...at, 'loot'])
        ? written.loot
        : undefined;
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

/** Activities, personas and scenarios are read by the simulator; here their references are checked. */
export function playCheck(refs: References): void {
  const keys = (section: Record<string, unknown> | undefined) => new Set(Object.keys(section ?? {}));
  const [events, activities, personas] = [
    keys(refs.document.events),
    keys(refs.document.activities),
    keys(refs.document.personas),
  ];
  for (const [id, activity] of Object.entries(refs.document.activities ?? {})) {
    refs.fixedBasket(activity.needs, ['activities', id, 'needs']);
    for (const [event, written] of Object.entries(activity.emits))
      checkEmit(refs, ['activities', id, 'emits', event], event, written, events);
  }
  for (const [id, persona] of Object.entries(refs.document.personas ?? {})) {
    for (const activity of Object.keys(persona.plays))
      refs.refers(activities, 'activity', activity, ['personas', id, 'plays', activity]);
    (persona.shops.wishes ?? []).forEach((wish, index) =>
      refs.refers(refs.items, 'item', wish, ['personas', id, 'shops', 'wishes', index]),
    );
    refs.fixedBasket(persona.shops.keeps, ['personas', id, 'shops', 'keeps']);
    for (const attribute of Object.keys(persona.attributes ?? {}))
      refs.refers(refs.playerNames, 'attribute', attribute, ['personas', id, 'attributes', attribute]);
  }
  for (const [id, scenario] of Object.entries(refs.document.scenarios ?? {}))
    for (const persona of Object.keys(scenario.mix))
      refs.refers(personas, 'persona', persona, ['scenarios', id, 'mix', persona]);
}

function checkEmit(
  refs: References,
  at: Segments,
  event: string,
  written: Record<string, unknown>,
  events: Set<string>,
): void {
  if (!refs.refers(events, 'event', event, at)) return;
  const fields = new Map(Object.entries(refs.document.events?.[event]?.fields ?? {}));
  for (const [field, drawn] of Object.entries(written)) {
    if (refs.refers(fields, 'event field', field, [...at, field]) && typeof drawn === 'string' && drawn.startsWith('='))
      refs.formula(drawn, fields.get(field)!, [...at, field]);
  }
  for (const field of fields.keys())
    if (!Object.hasOwn(written, field))
      refs.issue(
        'missing-field',
        at,
        `the event "${event}" has a field "${field}" that is not drawn`,
        `Write ${field}: with a value or a way to draw it.`,
      );
}
