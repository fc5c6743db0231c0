/**
 * The reference simulator: plain objects and the same pure check and apply functions as the live service.
 * Sessions of a day run in the order (start, player, number), for all players together, because they share stock. One
 * that goes on past midnight rests until the next day is played, so that each day holds exactly what happened in it.
 * Every draw comes from a stream keyed by (seed, player, purpose, day, ...): a price change does not disturb the luck.
 */
import type { Activity, Economy, Offer, Persona } from '../economy/index.js';
import { eventApply } from '../earning/index.js';
import type { Value } from '../formula/index.js';
import { isPlayerAccount, worldAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { playerCreate, playerHolds, playerPay, playerScope, playerSettle } from '../player/index.js';
import type { Player } from '../player/index.js';
import { isOnShow, shelfShown } from '../rotation/index.js';
import { randomOnce, randomStream } from '../random/index.js';
import { periodAround } from '../schedule/index.js';
import { UNTOUCHED, purchaseApply, purchaseCheck, sharedWith } from '../trade/index.js';
import type { Shared } from '../trade/index.js';
import { drawValue, weightedPick } from './draw.js';
import { POLICIES, byChecking, verdictAnswer, waysToPay } from './policy.js';
import type { VerdictAnswer, Visit } from './policy.js';
import { Recorder } from './recorder.js';
import type { SimulationResult } from './result.js';
import { sessionCount } from './sessions.js';
import type { RunSetup } from './scenario.js';

const HOUR_MS = 3_600_000;
const MINUTE_MS = 60_000;

export interface SimulateOptions {
  onDay?: (day: number, days: number) => void;
}
/** Every engine has this interface. */
export type Simulator = (setup: RunSetup, options?: SimulateOptions) => SimulationResult;

interface Actor {
  index: number;
  key: string;
  persona: number;
  player: Player;
  lastDay: number;
  gone: boolean;
  /** Until when the last session went on: the next begins no sooner. */
  busyUntilMs: number;
  earned: Record<string, number>;
  /** Offers wanted and refused on the day of that number: a day's refusals count once. */
  refused: { day: number; offers: Set<string> };
}
interface Session {
  actor: Actor;
  /** The day on which it begins, and which of that day's it is: what its luck is keyed by. */
  day: number;
  number: number;
  /** Planned; it begins when the one before is over. */
  startMs: number;
  state:
    | { at: 'planned' }
    | { at: 'play'; nowMs: number; endMs: number; turn: number }
    | { at: 'visit'; nowMs: number };
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
  private shared: Shared = UNTOUCHED;
  /** Those that went on when the last day ended. */
  private carried: Session[] = [];

  constructor(private readonly setup: RunSetup) {
    this.economy = setup.economy;
    this.personas = setup.crowd.map(({ persona }) => this.economy.personas.get(persona)!);
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
    const { id, attributes: rules } = this.personas[persona]!;
    const key = `${id}-${number}`;
    const random = randomStream(this.setup.seed, key, 'attributes');
    const { player: blank, movements } = playerCreate(this.economy, key, key, this.setup.startMs);
    const scope = playerScope(this.economy, blank, this.setup.startMs);
    const attributes: Record<string, Value> = {};
    for (const { attribute, draw } of rules) attributes[attribute] = drawValue(draw, random, scope);
    const actor: Actor = {
      index: this.actors.length,
      key,
      persona,
      player: { ...blank, attributes: { ...blank.attributes, ...attributes } },
      lastDay: this.setup.days - 1,
      gone: false,
      busyUntilMs: 0,
      earned: {},
      refused: { day: 0, offers: new Set() },
    };
    this.actors.push(actor);
    this.moved(actor, 0, movements);
  }

  private moved(actor: Actor, day: number, movements: readonly Movement[]): void {
    for (const { asset, units, to, cause } of movements)
      if (isPlayerAccount(to) && !cause.startsWith('start:')) actor.earned[asset] = (actor.earned[asset] ?? 0) + units;
    this.recorder.moved(actor.index, actor.persona, day, movements);
  }

  day(day: number): void {
    // Noon of the first day plus whole days of 24 hours stays within the right day across daylight-saving changes.
    const firstNoonMs = periodAround(this.economy.zone, 'day', this.setup.startMs).startMs + 12 * HOUR_MS;
    const { startMs, endMs } = periodAround(this.economy.zone, 'day', firstNoonMs + day * 24 * HOUR_MS);
    const sessions = [
      ...this.carried.filter(({ actor }) => !actor.gone),
      ...this.actors.flatMap((actor) => (actor.gone ? [] : this.sessions(actor, day, startMs))),
    ];
    sessions.sort((a, b) => a.startMs - b.startMs || a.actor.index - b.actor.index || a.number - b.number);
    this.carried = sessions.filter((session) => !this.session(session, day, endMs));
    for (const actor of this.actors) if (!actor.gone) this.nightfall(actor, day, endMs);
    this.recordBalances(day);
    for (const actor of this.actors) if (actor.lastDay === day) actor.gone = true;
  }

  /** The sessions of a day, none beginning before the one before it should be over. */
  private sessions(actor: Actor, day: number, dayStartMs: number): Session[] {
    const { perDay, minutes, fromHour, toHour } = this.personas[actor.persona]!.sessions;
    const random = randomStream(this.setup.seed, actor.key, 'sessions', day);
    const count = sessionCount(random, perDay);
    const hours = ((toHour - fromHour + 24) % 24) + 1;
    const starts = Array.from({ length: count }, () =>
      Math.max(this.setup.startMs, Math.floor(dayStartMs + (fromHour + random() * hours) * HOUR_MS)),
    ).sort((a, b) => a - b);
    let freeMs = actor.busyUntilMs;
    return starts.map((drawnMs, number) => {
      const startMs = Math.max(drawnMs, freeMs);
      freeMs = startMs + minutes * MINUTE_MS;
      return { actor, day, number, startMs, state: { at: 'planned' } };
    });
  }

  /** Plays a session as far as `day` goes; false where it goes on after midnight. */
  private session(session: Session, day: number, dayEndMs: number): boolean {
    const { actor, number } = session;
    const persona = this.personas[actor.persona]!;
    if (session.state.at === 'planned') {
      // The one before may have run over its time.
      const startMs = Math.max(session.startMs, actor.busyUntilMs);
      if (startMs >= dayEndMs) return false;
      const endMs = startMs + persona.sessions.minutes * MINUTE_MS;
      actor.busyUntilMs = endMs;
      session.state = { at: 'play', nowMs: startMs, endMs, turn: 0 };
      this.recorder.totals.sessions++;
      this.settle(actor, day, startMs);
    }
    if (session.state.at === 'play') {
      const { state } = session;
      while (state.nowMs < state.endMs) {
        const { turn } = state;
        const random = randomStream(this.setup.seed, actor.key, 'play', session.day, number, turn);
        const activity = this.pickActivity(actor, persona, random());
        if (!activity) break;
        const doneMs = state.nowMs + Math.round(activity.minutes * MINUTE_MS);
        if (doneMs >= dayEndMs) return false;
        this.play(actor, activity, random, `${session.day}-${number}-${turn}`, day, doneMs);
        state.nowMs = doneMs;
        state.turn++;
      }
      actor.busyUntilMs = Math.max(state.nowMs, state.endMs);
      session.state = { at: 'visit', nowMs: actor.busyUntilMs };
    }
    if (session.state.nowMs >= dayEndMs) return false;
    this.visit(session, persona, day, session.state.nowMs);
    return true;
  }

  private settle(actor: Actor, day: number, nowMs: number): void {
    const settled = playerSettle(this.economy, actor.player, nowMs);
    actor.player = settled.player;
    if (settled.movements.length > 0) this.moved(actor, day, settled.movements);
  }

  /** One of the activities whose entry the player can pay, by weight; none when there is none. */
  private pickActivity(actor: Actor, persona: Persona, luck: number): Activity | undefined {
    const open = persona.plays.filter(({ activity: { needs } }) =>
      Object.keys(needs).every((asset) => playerHolds(this.economy, actor.player, asset) >= needs[asset]!),
    );
    return weightedPick(open, luck)?.activity;
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
    for (const { event: name, fields } of activity.emits) {
      const event = {
        id: `${eventId}-${name}`,
        name,
        fields: Object.fromEntries(fields.map(({ field, draw }) => [field, drawValue(draw, random, scope)])),
      };
      const earned = eventApply(this.economy, actor.player, event, nowMs, this.setup.seed);
      actor.player = earned.player;
      this.recorder.totals.events++;
      this.moved(actor, day, earned.movements);
    }
  }

  private visit({ actor, day: began, number }: Session, persona: Persona, day: number, nowMs: number): void {
    const { economy, setup } = this;
    if (actor.refused.day !== day) actor.refused = { day, offers: new Set() };
    const { keeps } = persona.spending;
    const check = (offer: Offer, pay: string): VerdictAnswer =>
      verdictAnswer(purchaseCheck(economy, actor.player, this.shared, { offer: offer.id, pay }, nowMs), keeps);
    const visit: Visit<Offer, string, VerdictAnswer> = {
      offers: this.offersSeen(actor.player.id, nowMs),
      parameters: persona.spending,
      holds: (asset) => playerHolds(economy, actor.player, asset),
      giving: (item) => visit.offers.filter(({ gives }) => gives.some(({ asset }) => asset === item)),
      ...byChecking(waysToPay, check),
      buy: ({ verdict }) => {
        const bought = purchaseApply(economy, actor.player, this.shared, verdict);
        actor.player = bought.player;
        this.shared = sharedWith(this.shared, bought.shared);
        this.moved(actor, day, bought.movements);
        this.recorder.bought(actor.index, day, verdict.offer);
        return true;
      },
      refused: ({ verdict }) => {
        if (!actor.refused.offers.has(verdict.offer))
          this.recorder.refused(
            verdict.offer,
            verdict.reasons.map(({ code }) => code),
          );
        actor.refused.offers.add(verdict.offer);
      },
      luck: (offer) => randomOnce(setup.seed, actor.key, 'visit', began, number, offer.id),
      incomePerDay: (asset) => (actor.earned[asset] ?? 0) / (day + 1),
    };
    POLICIES[persona.spending.policy](visit);
  }

  /** Asked of each shelf once: most do not rotate. */
  private offersSeen(player: string, nowMs: number): Offer[] {
    const { economy } = this;
    return [...economy.shops.values()].flatMap(({ shelves }) =>
      shelves.flatMap((shelf) => {
        const shown = shelfShown(economy, shelf, player, nowMs);
        return shown.kind === 'all' ? shelf.offers : shelf.offers.filter(({ id }) => isOnShow(shown, id));
      }),
    );
  }

  private nightfall(actor: Actor, day: number, endMs: number): void {
    this.recorder.totals.playerDays++;
    this.settle(actor, day, endMs - 1);
    const { leaves } = this.personas[actor.persona]!;
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
