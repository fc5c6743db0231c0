/** What made-up players are and do: events, activities, personas and scenarios. */
import { WEEKDAYS } from '../document/index.js';
import type { DrawDocument, EconomyDocument, PersonaDocument } from '../document/index.js';
import type { Value, ValueType } from '../formula/index.js';
import { isFormula } from '../schema/index.js';
import type { DocumentReader, Segments } from './reader.js';
import type { Activity, DrawRule, Persona, Scenario, SessionBegins, Sessions } from './playTypes.js';
import type { Economy, GameEventKind } from './types.js';

type SessionsDocument = PersonaDocument['sessions'];

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
  const { shops } = written;
  return {
    id,
    name: written.name,
    attributes: Object.entries(written.attributes ?? {}).flatMap(([attribute, drawn]) => {
      const type = reader.playerNames.get(attribute);
      const draw = type && drawCompile(reader, drawn, type, [...at, 'attributes', attribute]);
      return draw ? [{ attribute, draw }] : [];
    }),
    sessions: sessionsCompile(reader, written.sessions, [...at, 'sessions']),
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

function sessionsCompile(reader: DocumentReader, written: SessionsDocument, at: Segments): Sessions {
  const { perDay: mean, fixed = false, minutes, weekdays } = written;
  const perDay = WEEKDAYS.map((day) => mean * (weekdays?.[day] ?? 1));
  const odd = fixed ? perDay.find((count) => !Number.isInteger(count)) : undefined;
  if (odd !== undefined)
    reader.issue(
      'wrong-value',
      [...at, 'perDay'],
      `${odd} is no number of sessions that every day can have`,
      'Write a whole number, or leave fixed out.',
    );
  return { perDay, fixed, minutes, begins: beginsCompile(reader, written, at) };
}

function beginsCompile(reader: DocumentReader, { from, to, hours }: SessionsDocument, at: Segments): SessionBegins {
  const fromHour = from ?? 0;
  const evenly: SessionBegins = { kind: 'evenly', fromHour, hours: (((to ?? 23) - fromHour + 24) % 24) + 1 };
  if (hours === undefined) return evenly;
  const weights = Object.entries(hours).map(([hour, weight]) => ({ hour: Number(hour), weight }));
  const total = weights.reduce((sum, { weight }) => sum + weight, 0);
  if (from !== undefined || to !== undefined)
    reader.issue(
      'wrong-value',
      [...at, 'hours'],
      'when sessions begin is said twice: by hours, and by from and to',
      'Leave one of them out.',
    );
  if (total > 0) {
    let sum = 0;
    const shares = weights
      .filter(({ weight }) => weight > 0)
      .sort((a, b) => a.hour - b.hour)
      .map(({ hour, weight }) => ({ hour, upTo: (sum += weight) / total }));
    return { kind: 'hourly', hours: shares };
  }
  reader.issue('wrong-value', [...at, 'hours'], 'sessions begin in none of these hours', 'Give one a weight above 0.');
  return evenly;
}

/** Weighted keys are text as written; what they stand for is as the field has it. */
const KEY_VALUES: Readonly<Record<ValueType, (key: string) => Value>> = {
  number: Number,
  text: (key) => key,
  truth: (key) => key === 'true',
};
const weighed = (weights: Readonly<Record<string, number>>, type: ValueType) =>
  Object.entries(weights).map(([key, weight]) => ({ value: KEY_VALUES[type](key), weight }));

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
