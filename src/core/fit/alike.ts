/**
 * What a log shows only together with the wallets, which it does not tell, is found by playing: which activities are chosen
 * beside each other, how long sessions are, and how ready players are to buy are moved until made-up players play and buy as
 * much as those of the log (indirect inference: Gourieroux, Monfort & Renault 1993). docs/method.md.
 */
import type { ActivityDocument, EconomyDocument, PersonaDocument } from '../document/index.js';
import { localMs, localWritten } from '../schedule/index.js';
import { RunStopped, percentile, scenarioResolve, simulateCounts } from '../simulation/index.js';
import type { RunCounts } from '../simulation/index.js';
import type { Histories, History } from './histories.js';
import { totalOf } from './shown.js';
import type { Shown } from './shown.js';
import { rounded } from './types.js';

export interface GroupAsked {
  document: EconomyDocument;
  histories: Histories;
  members: readonly History[];
  /** The persona's id, and what its own activities are told apart by. */
  id: string;
  name: string;
  seed: number;
  /** Told after every run. */
  onRun?: () => void;
}

/** Runs that are played to find what only play shows, and by how many players. */
const ROUNDS = 7;
const PLAYERS = 80;
/** A year shows what a session is like as well as ten do. */
const MOST_DAYS = 366;

/** The document with this persona as the only one that plays, on the days of the log. */
export function runOf(
  document: EconomyDocument,
  { firstWallMs, days }: Pick<Histories, 'firstWallMs' | 'days'>,
  persona: PersonaDocument,
  activities: Readonly<Record<string, ActivityDocument>>,
  players: number,
  seed: number,
): RunCounts {
  const setup = scenarioResolve(
    {
      ...document,
      activities: { ...document.activities, ...activities },
      personas: { ...document.personas, fitted: persona },
      scenarios: {
        ...document.scenarios,
        fitted: {
          name: 'Fitted',
          start: localWritten(document.timeZone, localMs(document.timeZone, firstWallMs)),
          days: Math.min(MOST_DAYS, days),
          players,
          seed,
          mix: { fitted: 1 },
        },
      },
    },
    'fitted',
  );
  if (!setup.ok) throw new RunStopped(setup.issues.map(({ pointer, message }) => `${pointer}: ${message}`).join('; '));
  return simulateCounts(setup.value);
}

const perSession = (counts: Readonly<Record<string, number>>, sessions: number): Record<string, number> =>
  Object.fromEntries(Object.entries(counts).map(([id, count]) => [id, count / Math.max(1, sessions)]));

/** Moves weights and the chance to buy until play shows what the log does; of the ways of spending the one that buys most alike. */
export function playedLike(
  { document, histories, members, seed, onRun }: GroupAsked,
  begun: PersonaDocument,
  activities: Readonly<Record<string, ActivityDocument>>,
  shown: Shown,
  playOf: ReadonlyMap<string, string>,
): PersonaDocument {
  const lists = BUYERS.map((share) => wishesOf(document, members, share));
  const ways: PersonaDocument['shops'][] = [
    { policy: 'impulse', chance: 0.1 },
    ...lists
      .filter((wishes, place) => wishes.length > 0 && wishes.length !== lists[place - 1]?.length)
      .map((wishes) => ({ policy: 'wishlist' as const, wishes, delayDays: 0.5, chance: 0.1 })),
  ];
  const wanted = totalOf(shown.bought);
  const minutesBy = new Map(
    Object.entries({ ...document.activities, ...activities }).map(([play, { minutes }]) => [play, minutes]),
  );
  const found = ways.map((shops) => {
    let persona: PersonaDocument = { ...begun, shops: { ...shops, chance: wanted === 0 ? 0 : shops.chance } };
    let best = { persona, off: Infinity };
    for (let round = 0; round < ROUNDS; round++) {
      const counts = runOf(document, histories, persona, activities, PLAYERS, seed);
      onRun?.();
      const plays = perSession(counts.plays, counts.sessions);
      const bought = perSession(counts.bought, counts.sessions);
      const minutes = Object.entries(plays).reduce((sum, [id, times]) => sum + times * minutesBy.get(id)!, 0);
      const off =
        apart(bought, shown.bought) +
        apart(named(plays, playOf), shown.plays) +
        Math.abs(Math.log(share(wanted, totalOf(bought)))) +
        Math.abs(Math.log(share(shown.minutes, minutes)));
      if (off < best.off) best = { persona, off };
      persona = {
        ...persona,
        sessions: {
          ...persona.sessions,
          minutes: minutesWithin(persona.sessions.minutes + shown.minutes - minutes),
        },
        plays: Object.fromEntries(
          Object.entries(persona.plays).map(([play, weight]) => [
            play,
            rounded(weight * share(shown.plays[playOf.get(play)!]!, plays[play] ?? 0)),
          ]),
        ),
        shops: {
          ...persona.shops,
          chance: rounded(Math.min(1, Math.max(0.001, persona.shops.chance! * share(wanted, totalOf(bought))))),
        },
      };
      if (wanted === 0) persona.shops.chance = 0;
    }
    return best;
  });
  return found.sort((a, b) => a.off - b.off)[0]!.persona;
}

/** To a tenth, as long as a session may be. */
export const minutesWithin = (minutes: number): number => Math.min(1440, Math.max(1, Math.round(10 * minutes) / 10));

/** How much more is wanted than was played; no more than fourfold either way in one step. */
const share = (wanted: number, played: number): number =>
  wanted === 0 && played === 0 ? 1 : Math.min(4, Math.max(0.25, wanted / Math.max(1e-6, played)));

const named = (counts: Readonly<Record<string, number>>, nameOf: ReadonlyMap<string, string>): Record<string, number> =>
  Object.fromEntries(Object.entries(counts).map(([id, count]) => [nameOf.get(id) ?? id, count]));

/** How far two lists of amounts are apart, from 0 to 1: of all in the larger, what the other does not have in the same place. */
function apart(one: Readonly<Record<string, number>>, other: Readonly<Record<string, number>>): number {
  const ids = new Set([...Object.keys(one), ...Object.keys(other)]);
  let [gap, all] = [0, 0];
  for (const id of ids) {
    gap += Math.abs((one[id] ?? 0) - (other[id] ?? 0));
    all += Math.max(one[id] ?? 0, other[id] ?? 0);
  }
  return all === 0 ? 0 : gap / all;
}

/** At least such a share of the players must have bought a thing for it to be one that they save for: each is tried. */
const BUYERS = [0.5, 0.1];
const MOST_WISHES = 20;

/** Things that are kept and were bought, in the order in which players bought them: by the median day. */
function wishesOf(document: EconomyDocument, members: readonly History[], least: number): string[] {
  const gives = new Map<string, string[]>();
  for (const { shelves } of Object.values(document.shops ?? {}))
    for (const { offers } of Object.values(shelves))
      for (const [offer, { gives: given }] of Object.entries(offers))
        gives.set(offer, typeof given === 'string' ? [given] : Object.keys(given ?? {}));
  const days = new Map<string, number[]>();
  for (const { sessions } of members) {
    const own = new Set<string>();
    for (const { day, purchases } of sessions)
      for (const { offer } of purchases)
        for (const item of gives.get(offer) ?? []) {
          if (document.items?.[item]?.kind !== 'durable' || own.has(item)) continue;
          own.add(item);
          days.set(item, [...(days.get(item) ?? []), day]);
        }
  }
  return [...days]
    .filter(([, all]) => all.length >= least * members.length)
    .map(([item, all]) => ({
      item,
      middle: percentile(
        all.sort((a, b) => a - b),
        50,
      )!,
      mean: all.reduce((sum, day) => sum + day, 0) / all.length,
    }))
    .sort((a, b) => a.middle - b.middle || a.mean - b.mean || (a.item < b.item ? -1 : 1))
    .slice(0, MOST_WISHES)
    .map(({ item }) => item);
}
