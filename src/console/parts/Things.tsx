/** Things of a section of the economy: a list in which one is made by its name, and the form of one of them. */
import type { EconomyDocument } from '../../core/document/index.js';
import { useSchema } from '../api.js';
import { AddByName } from './AddByName.js';
import { CopyAndDelete, UsedIn } from './about.js';
import { SchemaForm } from './SchemaForm.js';
import { useEdits } from './edits.js';
import type { OF_THE_ECONOMY } from './findings.js';
import { addOperations } from './step.js';
import { Empty } from './ui.js';

export type Section = (typeof OF_THE_ECONOMY)[number];

/** Those that others name: of them it is told where. */
const KINDS = {
  attributes: 'attribute',
  events: 'event',
  activities: 'activity',
  personas: 'persona',
  scenarios: 'scenario',
  goals: 'goal',
  tracks: 'track',
  teams: 'team',
} as const;

/** What one begins with beside its name; undefined where something else must be there first, which `EMPTY` tells. */
const BEGIN: Record<Section, (document: EconomyDocument) => object | undefined> = {
  attributes: () => ({ start: 0 }),
  events: () => ({}),
  earning: ({ events, currencies }) => {
    const [on, currency] = [first(events), first(currencies)];
    return on === undefined || currency === undefined ? undefined : { on, gives: { [currency]: 1 } };
  },
  goals: ({ events }) => {
    const event = first(events);
    return event === undefined ? { counts: 'events', target: 1 } : { counts: 'events', event, target: 1 };
  },
  tracks: ({ currencies, attributes }) => {
    const [earns] = Object.keys(currencies ?? {});
    const attribute = Object.entries(attributes ?? {}).find(([, { start }]) => typeof start === 'number');
    if (earns === undefined || !attribute) return undefined;
    const [id, { start }] = attribute;
    return { earns, attribute: id, levels: { [Number(start) + 1]: { costs: 100 } } };
  },
  teams: () => ({ most: 20 }),
  rankings: ({ currencies }) => {
    const currency = first(currencies);
    return currency === undefined ? undefined : { by: 'balance', currency };
  },
  activities: () => ({ minutes: 5, emits: {} }),
  personas: ({ activities }) => {
    const activity = first(activities);
    return {
      sessions: { perDay: 1, minutes: 15 },
      plays: activity === undefined ? {} : { [activity]: 1 },
      shops: { policy: 'impulse', chance: 0.5 },
    };
  },
  scenarios: ({ personas }) => {
    const persona = first(personas);
    const start = new Date().toISOString().slice(0, 10);
    return persona === undefined ? undefined : { start, days: 30, players: 100, mix: { [persona]: 1 } };
  },
  targets: ({ items }) => {
    const item = first(items);
    return item === undefined ? undefined : { measure: 'days-to-own', item, to: 7 };
  },
  levers: () => ({ moves: 'value', from: 1, to: 100 }),
};
const first = (section: object | undefined): string | undefined => Object.keys(section ?? {})[0];

const EMPTY: Record<Section, string> = {
  attributes: 'What formulas may know of a player, such as a level or a platform. Name the first one above.',
  events: 'What your game reports, such as a race that ends, and what it tells of it. Name the first one above.',
  earning: 'What events pay. It takes an event and a currency first; then name the first rule above.',
  goals: 'What players work towards, such as ten races or three different tails. Name the first one above.',
  tracks:
    'Levels by what was earned. It takes a currency, such as experience, and an attribute that is a number; then name the first one above.',
  teams:
    'Kinds of teams that players can join, such as crews. The teams themselves the game makes, or support under Players. Name the first kind above.',
  rankings:
    'Who is first: players or teams, by what they hold, earned or did for a goal. It takes a currency first; then name the first one above.',
  activities: 'What made-up players do, how long it takes, and the events that it ends with. Name the first one above.',
  personas: 'Kinds of made-up players: how often they play, what, and how they spend. Name the first one above.',
  scenarios: 'Simulations that are ready to be run. It takes a persona first; then name the first one above.',
  targets: 'What a run is held against, such as the day by which players own a thing. It takes an item first.',
  levers: 'Numbers that may move while prices are looked for, and how far. Name the first one above.',
};

export const thingsOf = (document: EconomyDocument, section: Section): Record<string, Record<string, unknown>> =>
  document[section] ?? {};

interface Listed {
  section: Section;
  document: EconomyDocument;
  /** The pointer of the one that is open. */
  open: string;
  onOpen: (pointer: string) => void;
  /** One was made, and is what comes next. */
  onMade: (pointer: string) => void;
}

/** A new one by its name; nothing where something else must be there first. */
export function AddThing({ section, document, onMade }: Pick<Listed, 'section' | 'document' | 'onMade'>) {
  const word = useWord(section);
  const edits = useEdits();
  const things = thingsOf(document, section);
  const begin = BEGIN[section](document);
  if (!begin) return null;
  return (
    <AddByName
      what={word}
      taken={(one) => one in things}
      onAdd={(one, name) => {
        edits.apply({ operations: addOperations(document, section, one, { name, ...begin }) });
        onMade(`/${section}/${one}`);
      }}
    />
  );
}

export function ThingList({
  section,
  document,
  open,
  onOpen,
  onMade,
  begins = true,
}: Listed & {
  /** Whether a new one is made here. */
  begins?: boolean;
}) {
  const things = thingsOf(document, section);
  return (
    <>
      {begins && <AddThing {...{ section, document, onMade }} />}
      {Object.keys(things).length === 0 ? (
        <Empty>{EMPTY[section]}</Empty>
      ) : (
        <ul className="rounded-sheet border border-line bg-sheet shadow-sheet">
          {Object.entries(things).map(([one, { name }]) => {
            const pointer = `/${section}/${one}`;
            return (
              <li key={one}>
                <button
                  type="button"
                  aria-pressed={pointer === open}
                  onClick={() => onOpen(pointer)}
                  className={`flex w-full items-baseline gap-3 border-b border-line/50 px-4 py-1 text-left ${pointer === open ? 'bg-tint-copper' : 'hover:bg-sunk'}`}
                >
                  <span className="font-semibold">{String(name ?? one)}</span>
                  <span className="text-sm text-soft">{one}</span>
                </button>
              </li>
            );
          })}
        </ul>
      )}
    </>
  );
}

/** What there is to know of one, and to do with it. */
export function ThingForm({
  section,
  id,
  thing,
  fresh,
  without,
  onGone,
  onMade,
}: {
  section: Section;
  id: string;
  thing: Record<string, unknown>;
  fresh: boolean;
  /** Fields that are written elsewhere. */
  without?: readonly string[] | undefined;
  onGone: () => void;
  onMade: (pointer: string) => void;
}) {
  const pointer = `/${section}/${id}`;
  const kind = section in KINDS ? KINDS[section as keyof typeof KINDS] : undefined;
  return (
    <div className="flex flex-col gap-3" key={pointer}>
      <CopyAndDelete pointer={pointer} name={String(thing['name'] ?? id)} onGone={onGone} onMade={onMade} />
      <SchemaForm pointer={pointer} value={thing} fresh={fresh} {...(without ? { without } : {})} />
      {kind && <UsedIn kind={kind} id={id} />}
    </div>
  );
}

/** What one of a section is called. */
function useWord(section: Section): string {
  const inner = useSchema().data?.properties?.[section]?.additionalProperties;
  return (typeof inner === 'object' && inner.title) || section;
}
