/** What made-up players are and do: events, activities, personas and scenarios. */
import type { DrawDocument, EconomyDocument } from '../document/index.js';
import type { ValueType } from '../formula/index.js';
import { isFormula } from '../schema/index.js';
import type { DocumentReader, Segments } from './reader.js';
import type { Activity, DrawRule, Economy, GameEventKind, Persona, Scenario } from './types.js';

type Section<K extends keyof EconomyDocument> =
  NonNullable<EconomyDocument[K]> extends Record<string, infer T> ? T : never;

/** What names nothing is left out: that is told once, for the whole document. */
export function playCompile(reader: DocumentReader): Pick<Economy, 'events' | 'activities' | 'personas' | 'scenarios'> {
  const { document } = reader;
  const compiled = <W, T>(section: Readonly<Record<string, W>> | undefined, one: (id: string, written: W) => T) =>
    new Map(Object.entries(section ?? {}).map(([id, written]) => [id, one(id, written)]));
  const events = compiled(document.events, (id, { fields }): GameEventKind => ({
    id,
    fields: new Map(Object.entries(fields ?? {})),
  }));
  const activities = compiled(document.activities, (id, written) => activityCompile(reader, events, id, written));
  return {
    events,
    activities,
    personas: compiled(document.personas, (id, written) => personaCompile(reader, activities, id, written)),
    scenarios: compiled(document.scenarios, (id, { name, start, days, players, seed, mix }): Scenario => ({
      id,
      name,
      startMs: reader.instant(start)!,
      days,
      players,
      seed,
      mix: Object.entries(mix).map(([persona, weight]) => ({ persona, weight })),
    })),
  };
}

function activityCompile(
  reader: DocumentReader,
  events: ReadonlyMap<string, GameEventKind>,
  id: string,
  written: Section<'activities'>,
): Activity {
  const at = ['activities', id];
  return {
    id,
    name: written.name,
    minutes: written.minutes,
    needs: reader.fixedBasket(written.needs, [...at, 'needs']),
    emits: Object.entries(written.emits).flatMap(([event, drawn]) => {
      const kind = events.get(event);
      return kind ? [{ event, fields: fieldsCompile(reader, kind, drawn, [...at, 'emits', event]) }] : [];
    }),
  };
}

function fieldsCompile(
  reader: DocumentReader,
  { id, fields }: GameEventKind,
  drawn: Readonly<Record<string, DrawDocument>>,
  at: Segments,
): Activity['emits'][number]['fields'] {
  for (const field of fields.keys())
    if (!Object.hasOwn(drawn, field))
      reader.issue(
        'missing-field',
        at,
        `the event "${id}" has a field "${field}" that is not drawn`,
        `Write ${field}: with a value or a way to draw it.`,
      );
  return Object.entries(drawn).flatMap(([field, written]) => {
    const type = fields.get(field);
    const draw = type && drawCompile(reader, written, type, [...at, field]);
    return draw ? [{ field, draw }] : [];
  });
}

function personaCompile(
  reader: DocumentReader,
  activities: ReadonlyMap<string, Activity>,
  id: string,
  written: Section<'personas'>,
): Persona {
  const at = ['personas', id];
  const { sessions, shops } = written;
  if (sessions.fixed && !Number.isInteger(sessions.perDay))
    reader.issue(
      'wrong-value',
      [...at, 'sessions', 'perDay'],
      `${sessions.perDay} is no number of sessions that every day can have`,
      'Write a whole number, or leave fixed out.',
    );
  return {
    id,
    name: written.name,
    attributes: Object.entries(written.attributes ?? {}).flatMap(([attribute, drawn]) => {
      const type = reader.playerNames.get(attribute);
      const draw = type && drawCompile(reader, drawn, type, [...at, 'attributes', attribute]);
      return draw ? [{ attribute, draw }] : [];
    }),
    sessions: {
      perDay: sessions.perDay,
      fixed: sessions.fixed ?? false,
      minutes: sessions.minutes,
      fromHour: sessions.from ?? 0,
      toHour: sessions.to ?? 23,
    },
    plays: Object.entries(written.plays).flatMap(([play, weight]) => {
      const activity = activities.get(play);
      return activity ? [{ activity, weight }] : [];
    }),
    playsFor: written.playsFor !== undefined && reader.currencies.has(written.playsFor) ? written.playsFor : undefined,
    spending: {
      policy: shops.policy,
      wishes: (shops.wishes ?? []).filter((wish) => reader.items.has(wish)),
      delayDays: shops.delayDays ?? 0,
      chance: shops.chance ?? (shops.policy === 'impulse' ? 0.5 : 0),
      keeps: reader.fixedBasket(shops.keeps, [...at, 'shops', 'keeps']),
    },
    leaves: written.leaves ?? 0,
  };
}

/** Of a number's field, weighted keys are numbers. */
const weighed = (weights: Readonly<Record<string, number>>, type: ValueType) =>
  Object.entries(weights).map(([value, weight]) => ({ value: type === 'number' ? Number(value) : value, weight }));

function drawCompile(
  reader: DocumentReader,
  written: DrawDocument,
  type: ValueType,
  at: Segments,
): DrawRule | undefined {
  if (isFormula(written)) {
    const formula = reader.formula(written, type, at);
    return formula && { kind: 'formula', formula };
  }
  if (typeof written !== 'object') return { kind: 'constant', value: written };
  if ('from' in written) return { kind: 'range', from: written.from, to: written.to };
  if ('weights' in written) return { kind: 'weights', values: weighed(written.weights, type) };
  if ('chosen' in written) return { kind: 'chosen', values: weighed(written.chosen, type) };
  if ('poisson' in written) return { kind: 'poisson', mean: written.poisson };
  if ('normal' in written) return { kind: 'normal', mean: written.normal[0], deviation: written.normal[1] };
  if ('lognormal' in written) return { kind: 'lognormal', mu: written.lognormal[0], sigma: written.lognormal[1] };
  return { kind: 'geometric', chance: written.geometric };
}
