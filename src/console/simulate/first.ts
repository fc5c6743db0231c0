/** The first scenario of an economy, of three answers: how long, how many, and who plays. No drawing here. */
import type { Operation } from 'fast-json-patch';
import type { EconomyDocument } from '../../core/document/index.js';
import { eventFields } from '../parts/eventFields.js';

type Persona = NonNullable<EconomyDocument['personas']>[string];
/** As they play at first: any of it can be changed afterwards. */
type Habits = Pick<Persona, 'sessions' | 'shops' | 'leaves'>;

export interface Ready {
  id: string;
  name: string;
  says: string;
}

const SELDOM = 0.4;
const OFTEN = 2.5;

/** Kinds of players that any game knows, for an economy that has no personas yet. */
const HABITS: readonly (Ready & Habits)[] = [
  {
    id: 'now_and_then',
    name: 'Now and then',
    says: '10 minutes every other day, buys on impulse',
    sessions: { perDay: 0.5, minutes: 10 },
    shops: { policy: 'impulse', chance: 0.2 },
    leaves: 0.03,
  },
  {
    id: 'on_weekends',
    name: 'On weekends',
    says: '40 minutes, mostly on Saturdays and Sundays, saves for wishes',
    sessions: {
      perDay: 1,
      minutes: 40,
      weekdays: {
        monday: SELDOM,
        tuesday: SELDOM,
        wednesday: SELDOM,
        thursday: SELDOM,
        friday: SELDOM,
        saturday: OFTEN,
        sunday: OFTEN,
      },
    },
    shops: { policy: 'wishlist' },
    leaves: 0.01,
  },
  {
    id: 'every_day',
    name: 'Every day',
    says: 'half an hour twice a day, saves for wishes',
    sessions: { perDay: 2, minutes: 30 },
    shops: { policy: 'wishlist' },
    leaves: 0.005,
  },
];

/** Who can be chosen from: the personas that there are, or ready ones. */
export function readyPersonas({ personas = {} }: EconomyDocument): Ready[] {
  const own = Object.entries(personas);
  return own.length > 0
    ? own.map(([id, { name, description = '' }]) => ({ id, name: name ?? id, says: description }))
    : HABITS.map(({ id, name, says }) => ({ id, name, says }));
}

const MINUTES = 5;

/** What there is to do: the activities, or one for each event that pays. */
function activitiesOf(document: EconomyDocument): {
  ids: string[];
  made: NonNullable<EconomyDocument['activities']>;
} {
  const { activities, events = {}, earning = {} } = document;
  if (activities && Object.keys(activities).length > 0) return { ids: Object.keys(activities), made: {} };
  const paying = new Set(Object.values(earning).map(({ on }) => on));
  const made = Object.fromEntries(
    Object.entries(events)
      .filter(([id]) => paying.has(id))
      .map(([id, { name }]) => [
        id,
        { name: name ?? id, minutes: MINUTES, emits: { [id]: eventFields(document, id) } },
      ]),
  );
  return { ids: Object.keys(made), made };
}

/** Whether anything that players do pays them. */
export const isAnythingEarned = (document: EconomyDocument): boolean => activitiesOf(document).ids.length > 0;

export interface Answers {
  days: number;
  players: number;
  /** By persona, how many beside each other; those at 0 do not play. */
  mix: Readonly<Record<string, number>>;
  /** The first day, such as `2027-03-01`. */
  start: string;
}

export const FIRST = 'first_look';

/** What makes it, with the personas and activities that it needs and are not there. */
export function firstScenario(document: EconomyDocument, { days, players, mix, start }: Answers): Operation[] {
  const { ids, made } = activitiesOf(document);
  const known = document.personas ?? {};
  const wishes = Object.keys(document.items ?? {}).slice(0, 3);
  const personas = Object.fromEntries(
    HABITS.filter(({ id }) => (mix[id] ?? 0) > 0 && !(id in known)).map(({ id, name, sessions, shops, leaves }) => [
      id,
      {
        name,
        sessions,
        plays: Object.fromEntries(ids.map((activity) => [activity, 1])),
        shops: shops.policy === 'wishlist' ? { ...shops, wishes } : shops,
        leaves,
      },
    ]),
  );
  const played = Object.fromEntries(Object.entries(mix).filter(([, weight]) => weight > 0));
  const scenario = { name: 'First look', start, days, players, mix: played };
  const sections = { activities: made, personas, scenarios: { [FIRST]: scenario } };
  return Object.entries(sections).flatMap(([section, things]) => {
    if (Object.keys(things).length === 0) return [];
    const before = document[section as keyof typeof sections];
    return [{ op: 'add' as const, path: `/${section}`, value: { ...before, ...things } }];
  });
}
