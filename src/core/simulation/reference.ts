/**
 * The reference simulator: plain objects and the same pure check and apply functions as the live service.
 * Sessions of a day run in the order (start, player, number), for all players together, because they share stock.
 * Every draw comes from a stream keyed by (seed, player, purpose, day, ...): a price change does not disturb the luck.
 */
import type { ActivityDocument, PersonaDocument } from '../document/index.js';
import type { Economy, Offer } from '../economy/index.js';
import { eventApply } from '../earning/index.js';
import { unitsParse } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { Value } from '../formula/index.js';
import { worldAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { playerCreate, playerHolds, playerPay, playerScope, playerSettle } from '../player/index.js';
import type { Player } from '../player/index.js';
import { shelfShown } from '../rotation/index.js';
import { randomOnce, randomStream } from '../random/index.js';
import { periodAround } from '../schedule/index.js';
import { purchaseApply, purchaseCheck } from '../trade/index.js';
import type { SharedStocks } from '../trade/index.js';
import { attributeNames, attributeType, drawCompile, weightedKey } from './draw.js';
import type { Draw } from './draw.js';
import { randomPoisson } from 'd3-random';
import { POLICIES } from './policy.js';
import type { SpendingParameters, Visit } from './policy.js';
import { Recorder } from './recorder.js';
import type { SimulationResult } from './result.js';
import type { RunSetup } from './scenario.js';

const HOUR_MS = 3_600_000;
const MINUTE_MS = 60_000;

export interface SimulateOptions {
  onDay?: (day: number, days: number) => void;
}
/** Every engine has this interface. */
export type Simulator = (setup: RunSetup, options?: SimulateOptions) => SimulationResult;

interface Activity {
  id: string;
  minutes: number;
  needs: Basket;
  emits: { name: string; fields: [string, Draw][] }[];
}
interface Persona {
  id: string;
  name: string;
  written: PersonaDocument;
  plays: Activity[];
  weights: Record<string, number>;
  spending: SpendingParameters;
}
interface Actor {
  index: number;
  key: string;
  persona: number;
  player: Player;
  lastDay: number;
  gone: boolean;
  earned: Record<string, number>;
  /** Offers wanted and refused on the day of that number: a day's refusals count once. */
  refused: { day: number; offers: Set<string> };
}
interface Session {
  actor: Actor;
  startMs: number;
  number: number;
}

/** O(players x days x sessions x offers); memory grows with players, and with days only by the result's rows. */
export const simulateReference: Simulator = (setup, { onDay } = {}) => {
  const run = new Run(setup);
  for (let day = 0; day < setup.days; day++) {
    run.day(day);
    onDay?.(day + 1, setup.days);
  }
  return run.result();
};

class Run {
  private readonly economy: Economy;
  private readonly personas: Persona[];
  private readonly actors: Actor[] = [];
  private readonly recorder: Recorder;
  private shared: SharedStocks = {};

  constructor(private readonly setup: RunSetup) {
    this.economy = setup.economy;
    this.personas = setup.crowd.map(({ persona }) => personaCompile(this.economy, persona));
    const players = setup.crowd.reduce((sum, one) => sum + one.players, 0);
    this.recorder = new Recorder(
      setup,
      setup.crowd.map(({ persona, players: count }, index) => ({
        id: persona,
        name: this.personas[index]!.name,
        players: count,
      })),
      players,
    );
    for (const [persona, { players: count }] of setup.crowd.entries())
      for (let number = 0; number < count; number++) this.join(persona, number);
  }

  private join(persona: number, number: number): void {
    const { id, written } = this.personas[persona]!;
    const key = `${id}-${number}`;
    const random = randomStream(this.setup.seed, key, 'attributes');
    const { player: blank, movements } = playerCreate(this.economy, key, key, this.setup.startMs);
    const scope = playerScope(this.economy, blank, this.setup.startMs);
    const attributes: Record<string, Value> = {};
    for (const [name, draw] of Object.entries(written.attributes ?? {}))
      attributes[name] = drawCompile(
        draw,
        attributeType(this.economy, name),
        attributeNames(this.economy),
      )(random, scope);
    const actor: Actor = {
      index: this.actors.length,
      key,
      persona,
      player: { ...blank, attributes: { ...blank.attributes, ...attributes } },
      lastDay: this.setup.days - 1,
      gone: false,
      earned: {},
      refused: { day: 0, offers: new Set() },
    };
    this.actors.push(actor);
    this.moved(actor, 0, movements);
  }

  private moved(actor: Actor, day: number, movements: readonly Movement[]): void {
    for (const { asset, units, to, cause } of movements)
      if (to.startsWith('player:') && !cause.startsWith('start:'))
        actor.earned[asset] = (actor.earned[asset] ?? 0) + units;
    this.recorder.moved(actor.index, actor.persona, day, movements);
  }

  day(day: number): void {
    // Noon of the first day plus whole days of 24 hours stays within the right day across daylight-saving changes.
    const firstNoonMs = periodAround(this.economy.zone, 'day', this.setup.startMs).startMs + 12 * HOUR_MS;
    const { startMs, endMs } = periodAround(this.economy.zone, 'day', firstNoonMs + day * 24 * HOUR_MS);
    const sessions = this.actors.flatMap((actor) => (actor.gone ? [] : this.sessions(actor, day, startMs)));
    sessions.sort((a, b) => a.startMs - b.startMs || a.actor.index - b.actor.index || a.number - b.number);
    for (const session of sessions) this.session(session, day);
    for (const actor of this.actors) if (!actor.gone) this.nightfall(actor, day, endMs);
    this.recordBalances(day);
    for (const actor of this.actors) if (actor.lastDay === day) actor.gone = true;
  }

  private sessions(actor: Actor, day: number, dayStartMs: number): Session[] {
    const {
      sessions: { perDay, from = 0, to = 23 },
    } = this.personas[actor.persona]!.written;
    const random = randomStream(this.setup.seed, actor.key, 'sessions', day);
    const count = randomPoisson.source(random)(perDay)();
    const hours = ((to - from + 24) % 24) + 1;
    return Array.from({ length: count }, (_, number) => ({
      actor,
      number,
      startMs: Math.max(this.setup.startMs, Math.floor(dayStartMs + (from + random() * hours) * HOUR_MS)),
    }));
  }

  private session({ actor, startMs, number }: Session, day: number): void {
    const persona = this.personas[actor.persona]!;
    const endMs = startMs + persona.written.sessions.minutes * MINUTE_MS;
    this.recorder.totals.sessions++;
    this.settle(actor, day, startMs);
    let nowMs = startMs;
    for (let turn = 0; nowMs < endMs; turn++) {
      const random = randomStream(this.setup.seed, actor.key, 'play', day, number, turn);
      const activity = this.pickActivity(actor, persona, random());
      if (!activity) break;
      nowMs += Math.round(activity.minutes * MINUTE_MS);
      this.play(actor, activity, random, `${day}-${number}-${turn}`, day, nowMs);
    }
    this.visit(actor, persona, day, number, Math.max(nowMs, endMs));
  }

  private settle(actor: Actor, day: number, nowMs: number): void {
    const settled = playerSettle(this.economy, actor.player, nowMs);
    actor.player = settled.player;
    if (settled.movements.length > 0) this.moved(actor, day, settled.movements);
  }

  /** One of the activities whose entry the player can pay, by weight; none when there is none. */
  private pickActivity(actor: Actor, persona: Persona, luck: number): Activity | undefined {
    const open = persona.plays.filter(({ needs }) =>
      Object.keys(needs).every((asset) => playerHolds(this.economy, actor.player, asset) >= needs[asset]!),
    );
    if (open.length === 0) return undefined;
    const id = weightedKey(
      Object.fromEntries(open.map((activity) => [activity.id, persona.weights[activity.id]!])),
      luck,
    );
    return open.find((activity) => activity.id === id);
  }

  private play(
    actor: Actor,
    activity: Activity,
    random: () => number,
    eventId: string,
    day: number,
    nowMs: number,
  ): void {
    const entry = playerPay(
      this.economy,
      actor.player,
      activity.needs,
      worldAccount('activity'),
      `activity:${activity.id}`,
      nowMs,
    );
    actor.player = entry.player;
    this.moved(actor, day, entry.movements);
    const scope = playerScope(this.economy, actor.player, nowMs);
    for (const { name, fields } of activity.emits) {
      const event = {
        id: `${eventId}-${name}`,
        name,
        fields: Object.fromEntries(fields.map(([field, draw]) => [field, draw(random, scope)])),
      };
      const earned = eventApply(this.economy, actor.player, event, nowMs, this.setup.seed);
      actor.player = earned.player;
      this.recorder.totals.events++;
      this.moved(actor, day, earned.movements);
    }
  }

  private visit(actor: Actor, persona: Persona, day: number, number: number, nowMs: number): void {
    const { economy, setup } = this;
    if (actor.refused.day !== day) actor.refused = { day, offers: new Set() };
    const visit: Visit = {
      economy,
      offers: this.offersSeen(actor.player.id, nowMs),
      parameters: persona.spending,
      holds: (asset) => playerHolds(economy, actor.player, asset),
      check: (offer, pay) => purchaseCheck(economy, actor.player, this.shared, { offer: offer.id, pay }, nowMs),
      buy: (verdict) => {
        const bought = purchaseApply(economy, actor.player, this.shared, verdict);
        actor.player = bought.player;
        this.shared = { ...this.shared, ...bought.shared };
        this.moved(actor, day, bought.movements);
        this.recorder.bought(actor.index, day, verdict);
        return true;
      },
      refused: (verdict) => {
        if (!actor.refused.offers.has(verdict.offer)) this.recorder.refused(verdict);
        actor.refused.offers.add(verdict.offer);
      },
      luck: (offer) => randomOnce(setup.seed, actor.key, 'visit', day, number, offer.id),
      incomePerDay: (asset) => (actor.earned[asset] ?? 0) / (day + 1),
    };
    POLICIES[persona.written.shops.policy](visit);
  }

  /** Asked of each shelf once: most do not rotate. */
  private offersSeen(player: string, nowMs: number): Offer[] {
    const { economy } = this;
    return [...economy.shops.values()].flatMap(({ shelves }) =>
      shelves.flatMap((shelf) => {
        const shown = shelfShown(economy, shelf, player, nowMs);
        return shown ? shelf.offers.filter(({ id }) => shown.offers.includes(id)) : shelf.offers;
      }),
    );
  }

  private nightfall(actor: Actor, day: number, endMs: number): void {
    this.recorder.totals.playerDays++;
    this.settle(actor, day, endMs - 1);
    const leaves = this.personas[actor.persona]!.written.leaves ?? 0;
    if (leaves > 0 && randomOnce(this.setup.seed, actor.key, 'leaves', day) < leaves) actor.lastDay = day;
  }

  private recordBalances(day: number): void {
    const currencies = [...this.economy.currencies.keys()];
    const held = this.personas.map(() => currencies.map(() => [] as number[]));
    for (const actor of this.actors)
      if (!actor.gone)
        for (const [index, id] of currencies.entries())
          held[actor.persona]![index]!.push(playerHolds(this.economy, actor.player, id));
    this.recorder.dayEnds(day, held);
  }

  result(): SimulationResult {
    const currencies = [...this.economy.currencies.keys()];
    return this.recorder.result(
      this.actors.map(({ persona, lastDay, player }) => ({
        persona,
        lastDay,
        balances: currencies.map((id) => playerHolds(this.economy, player, id)),
      })),
    );
  }
}

function personaCompile(economy: Economy, id: string): Persona {
  const written = economy.document.personas![id]!;
  const plays = Object.keys(written.plays).map((activity) =>
    activityCompile(economy, activity, economy.document.activities![activity]!),
  );
  const { wishes = [], delayDays = 0, chance, policy, keeps } = written.shops;
  return {
    id,
    name: written.name,
    written,
    plays,
    weights: written.plays,
    spending: {
      wishes,
      delayDays,
      chance: chance ?? (policy === 'impulse' ? 0.5 : 0),
      keeps: fixedBasket(economy, keeps),
    },
  };
}

function activityCompile(economy: Economy, id: string, written: ActivityDocument): Activity {
  const names = attributeNames(economy);
  return {
    id,
    minutes: written.minutes,
    needs: fixedBasket(economy, written.needs),
    emits: Object.entries(written.emits).map(([name, fields]) => ({
      name,
      fields: Object.entries(fields).map(([field, draw]) => [
        field,
        drawCompile(draw, economy.document.events![name]!.fields![field]!, names),
      ]),
    })),
  };
}

/** Amounts that the compiler has already checked, as units. */
function fixedBasket(economy: Economy, written: Record<string, number | string> | undefined): Basket {
  return Object.fromEntries(
    Object.entries(written ?? {}).map(([asset, value]) => {
      const parsed = unitsParse(value, economy.currencies.get(asset)?.decimals ?? 0);
      if (!parsed.ok) throw new Error(`${asset}: ${parsed.message}`);
      return [asset, parsed.units];
    }),
  );
}
