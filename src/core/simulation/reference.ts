/**
 * The reference simulator: plain objects and the same pure check and apply functions as the live service.
 * Sessions of a day run in the order (start, player, number), for all players together, because they share stock. One
 * that goes on past midnight rests until the next day is played, so that each day holds exactly what happened in it.
 * Every draw comes from a stream keyed by (seed, player, purpose, day, ...): a price change does not disturb the luck.
 */
import type { Activity, Economy, Offer, Persona, Track } from '../economy/index.js';
import { eventApply } from '../earning/index.js';
import type { Value } from '../formula/index.js';
import { isPlayerAccount, worldAccount } from '../ledger/index.js';
import type { Movement } from '../ledger/index.js';
import { counterKey, playerCreate, playerHolds, playerPay, playerScope, playerSettle } from '../player/index.js';
import type { Player } from '../player/index.js';
import { isOnShow, shelfShown } from '../rotation/index.js';
import { keyWith, numberOf, streamOf } from '../random/index.js';
import type { Key } from '../random/index.js';
import { levelNextMs } from '../schedule/index.js';
import { UNTOUCHED, purchaseApply, purchaseCheck, sharedWith } from '../trade/index.js';
import type { ReasonCode, Shared } from '../trade/index.js';
import { drawValue, weightedPick } from './draw.js';
import { POLICIES, byChecking, verdictAnswer, waysToPay } from './policy.js';
import type { VerdictAnswer, Visit } from './policy.js';
import { runDay, runEndMs, runWeekday } from './days.js';
import { slotsMake } from './engine/slots.js';
import type { Slots } from './engine/slots.js';
import { ResultMaker } from './maker.js';
import type { Holdings } from './holdings.js';
import { Recorder } from './recorder.js';
import { trackAt } from '../progress/index.js';
import type { Progress } from '../progress/index.js';
import { levelKey, stepKey } from './targets.js';
import type { SimulationResult } from './result.js';
import { sessionBegins, sessionsDraw } from './sessions.js';
import { LUCK, offerLuck, playerLuck } from './luck.js';
import { ruleFailed } from './scenario.js';
import type { RunSetup } from './scenario.js';

const HOUR_MS = 3_600_000;
const MINUTE_MS = 60_000;

export interface SimulateOptions {
  /** How many days are done, with the part of the one that is being played. */
  onProgress?: (days: number) => void;
}

/** What a player did at an instant, as a game would tell it to a live service. */
export type Move = { player: string; atMs: number } & (
  | { kind: 'joins'; attributes: Readonly<Record<string, Value>> }
  | { kind: 'event'; session: string; name: string; fields: Readonly<Record<string, Value>> }
  | { kind: 'buys'; session: string; offer: string; pay: string; total: Readonly<Record<string, number>> }
  | { kind: 'wants'; offer: string; pay: string | undefined; reasons: readonly ReasonCode[] }
);

export interface ReferenceOptions extends SimulateOptions {
  onMove?: (move: Move) => void;
}
/** Every engine has this interface. */
export type Simulator = (setup: RunSetup, options?: SimulateOptions) => SimulationResult;

/** What stands against a purchase because of its price, or because the offer is not there to be bought. */
const NOT_PAYABLE = new Set<ReasonCode>([
  'short-of',
  'zero-price',
  'gives-nothing',
  'bad-formula',
  'shop-closed',
  'not-for-this-player',
  'not-on-show',
]);

interface Actor {
  index: number;
  /** Which of its persona it is, and what all that it draws is keyed by. */
  number: number;
  luck: Key;
  persona: number;
  player: Player;
  lastDay: number;
  gone: boolean;
  /** Until when the last session went on: the next begins no sooner. */
  busyUntilMs: number;
  earned: Record<string, number>;
  /** The first day on which each item was owned, and on which one that was on show could be paid for. */
  ownedDay: Record<string, number>;
  affordedDay: Record<string, number>;
  /** By goal, or level of a track. */
  stepDay: Record<string, number>;
  bought: Set<string>;
  /** Offers wanted and refused on the day of that number: a day's refusals count once. */
  refused: { day: number; offers: Set<string> };
  /** The days on which the player went shopping, and on which something was refused for a watched reason. */
  shopDays: Set<number>;
  reasonDays: Set<string>;
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
export const simulateReference = (setup: RunSetup, { onProgress, onMove }: ReferenceOptions = {}): SimulationResult => {
  const run = new Run(setup, onMove);
  for (let day = 0; day < setup.days; day++) {
    run.day(day);
    onProgress?.(day + 1);
  }
  return run.result();
};

/** Of a player's own sessions. */
const sessionName = ({ day, number }: Session): string => `${day}.${number}`;

function noteLevels({ stepDay }: Actor, { id, levels }: Track, most: number, day: number): void {
  for (const { level } of levels) if (level <= most) stepDay[`level ${levelKey({ track: id, level })}`] ??= day;
}

class Run {
  private readonly economy: Economy;
  private readonly personas: Persona[];
  private readonly actors: Actor[] = [];
  private readonly slots: Slots;
  private readonly recorder: Recorder;
  private readonly maker: ResultMaker;
  private shared: Shared = UNTOUCHED;
  /** Those that went on when the last day ended. */
  private carried: Session[] = [];

  constructor(
    private readonly setup: RunSetup,
    private readonly onMove: (move: Move) => void = () => undefined,
  ) {
    this.economy = setup.economy;
    this.personas = setup.crowd.map(({ persona }) => this.economy.personas.get(persona)!);
    // Only the rows of tallies are numbered by slots: nothing is played by them.
    this.slots = slotsMake(setup);
    this.recorder = new Recorder(this.slots, setup.crowd.length);
    this.maker = new ResultMaker(setup, this.slots);
    for (const [persona, { players: count }] of setup.crowd.entries())
      for (let number = 0; number < count; number++) this.join(persona, number);
  }

  private join(persona: number, number: number): void {
    const { id, attributes: rules } = this.personas[persona]!;
    const key = `${id}-${number}`;
    const luck = playerLuck(this.setup.seed, id, number);
    const random = streamOf(keyWith(luck, LUCK.attributes));
    const { player: blank, movements } = playerCreate(this.economy, key, key, this.setup.startMs);
    const scope = playerScope(this.economy, blank, this.setup.startMs);
    const attributes: Record<string, Value> = {};
    for (const { attribute, draw } of rules) attributes[attribute] = drawValue(draw, random, scope);
    const actor: Actor = {
      index: this.actors.length,
      number,
      luck,
      persona,
      player: { ...blank, attributes: { ...blank.attributes, ...attributes } },
      lastDay: this.setup.days - 1,
      gone: false,
      busyUntilMs: 0,
      earned: {},
      ownedDay: {},
      affordedDay: {},
      stepDay: {},
      bought: new Set(),
      refused: { day: 0, offers: new Set() },
      shopDays: new Set(),
      reasonDays: new Set(),
    };
    this.actors.push(actor);
    this.onMove({ kind: 'joins', player: key, atMs: this.setup.startMs, attributes: actor.player.attributes });
    this.moved(actor, 0, movements);
    for (const track of this.economy.tracks.values()) noteLevels(actor, track, trackAt(track, actor.player).level, 0);
  }

  private moved(actor: Actor, day: number, movements: readonly Movement[]): void {
    for (const { asset, units, to, cause } of movements) {
      if (!isPlayerAccount(to)) continue;
      if (!cause.startsWith('start:')) actor.earned[asset] = (actor.earned[asset] ?? 0) + units;
      if (this.economy.items.has(asset)) actor.ownedDay[asset] ??= day;
    }
    this.recorder.moved(actor.persona, movements);
  }

  day(day: number): void {
    const { startMs, endMs } = runDay(this.setup, day);
    const sessions = [
      ...this.carried.filter(({ actor }) => !actor.gone),
      ...this.actors.flatMap((actor) => (actor.gone ? [] : this.sessions(actor, day, startMs))),
    ];
    sessions.sort((a, b) => a.startMs - b.startMs || a.actor.index - b.actor.index || a.number - b.number);
    this.carried = sessions.filter((session) => !this.session(session, day, endMs));
    for (const actor of this.actors) if (!actor.gone) this.nightfall(actor, day, endMs);
    this.maker.dayEnds(day, this.recorder.dayEnds(), this.holdings());
    for (const actor of this.actors) if (actor.lastDay === day) actor.gone = true;
  }

  /** The sessions of a day, none beginning before the one before it should be over. */
  private sessions(actor: Actor, day: number, dayStartMs: number): Session[] {
    const { sessions } = this.personas[actor.persona]!;
    const { minutes, begins } = sessions;
    const random = streamOf(keyWith(actor.luck, LUCK.sessions, day));
    const count = sessionsDraw(random, sessions)[runWeekday(this.setup, dayStartMs)]!();
    const starts = Array.from({ length: count }, () =>
      Math.max(this.setup.startMs, Math.floor(dayStartMs + sessionBegins(begins, random()) * HOUR_MS)),
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
      this.recorder.count('sessions');
      this.settle(actor, day, startMs);
    }
    if (session.state.at === 'play') {
      const { state } = session;
      while (state.nowMs < state.endMs) {
        const { turn } = state;
        const random = streamOf(keyWith(actor.luck, LUCK.play, session.day, number, turn));
        const activity = this.pickActivity(actor, persona, random());
        if (!activity) break;
        const doneMs = state.nowMs + Math.round(activity.minutes * MINUTE_MS);
        if (doneMs >= dayEndMs) return false;
        this.play(session, activity, random, keyWith(actor.luck, LUCK.event, session.day, number, turn), day, doneMs);
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
    session: Session,
    activity: Activity,
    random: () => number,
    luck: Key,
    day: number,
    nowMs: number,
  ): void {
    const { actor } = session;
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
    const paid: Movement[] = [];
    for (const [index, { event: name, fields }] of activity.emits.entries()) {
      const values = Object.fromEntries(fields.map(({ field, draw }) => [field, drawValue(draw, random, scope)]));
      // Its luck comes from its keys: nothing asks for its id.
      const event = { id: name, name, fields: values };
      this.onMove({
        kind: 'event',
        player: actor.player.id,
        atMs: nowMs,
        session: sessionName(session),
        name,
        fields: values,
      });
      const earned = eventApply(this.economy, actor.player, event, nowMs, keyWith(luck, index));
      actor.player = earned.player;
      this.recorder.count('events');
      for (const outcome of earned.outcomes)
        if (!outcome.paid && outcome.why === 'formula')
          throw ruleFailed(
            this.setup,
            { section: 'earning', id: outcome.rule },
            actor.persona,
            actor.number,
            day,
            outcome.problem!,
          );
      for (const one of earned.progress)
        if (one.kind === 'failed')
          throw ruleFailed(
            this.setup,
            { section: 'goals', id: one.goal },
            actor.persona,
            actor.number,
            day,
            one.problem,
          );
      this.reached(actor, day, earned.progress);
      this.moved(actor, day, earned.movements);
      paid.push(...earned.movements);
    }
    this.recorder.played(actor.persona, activity.id, paid);
  }

  private visit(session: Session, persona: Persona, day: number, nowMs: number): void {
    const { actor, day: began, number } = session;
    const { economy } = this;
    const luck = keyWith(actor.luck, LUCK.visit, began, number);
    const offers = this.offersSeen(actor.player.id, nowMs);
    if (actor.refused.day !== day) actor.refused = { day, offers: new Set() };
    actor.shopDays.add(day);
    const { keeps } = persona.spending;
    const check = (offer: Offer, pay: string): VerdictAnswer =>
      verdictAnswer(purchaseCheck(economy, actor.player, this.shared, { offer: offer.id, pay }, nowMs), keeps);
    const visit: Visit<Offer, string, VerdictAnswer, string> = {
      wishes: persona.spending.wishes,
      delayDays: persona.spending.delayDays,
      holds: (item) => playerHolds(economy, actor.player, item),
      giving: (item) => offers.filter(({ gives }) => gives.some(({ asset }) => asset === item)),
      ...byChecking({
        offers,
        chance: persona.spending.chance,
        luck: ({ id }) => numberOf(keyWith(luck, offerLuck(id))),
        ways: waysToPay,
        check,
      }),
      buy: ({ verdict }) => {
        const { pay, total } = verdict.price!;
        this.onMove({
          kind: 'buys',
          player: actor.player.id,
          atMs: nowMs,
          session: sessionName(session),
          offer: verdict.offer,
          pay,
          total,
        });
        const bought = purchaseApply(economy, actor.player, this.shared, verdict, actor.luck);
        actor.player = bought.player;
        this.shared = sharedWith(this.shared, bought.shared);
        this.moved(actor, day, bought.movements);
        this.reached(actor, day, bought.progress);
        const { offer } = verdict;
        this.recorder.bought(actor.persona, day, offer, total, !actor.bought.has(offer));
        actor.bought.add(offer);
        this.noteSoldOut(economy.offers.get(offer)!, bought.shared, nowMs);
        return true;
      },
      refused: ({ verdict }) => {
        const reasons = verdict.reasons.map(({ code }) => code);
        const pay = verdict.price?.pay;
        this.onMove({ kind: 'wants', player: actor.player.id, atMs: nowMs, offer: verdict.offer, pay, reasons });
        if (actor.refused.offers.has(verdict.offer)) return;
        actor.refused.offers.add(verdict.offer);
        this.recorder.refused(actor.persona, verdict.offer, reasons);
        for (const code of reasons) actor.reasonDays.add(`${code} ${day}`);
      },
      incomePerDay: (asset) => (actor.earned[asset] ?? 0) / (day + 1),
    };
    this.noteAfforded(actor, offers, day, nowMs);
    POLICIES[persona.spending.policy](visit);
  }

  private reached(actor: Actor, day: number, progress: readonly Progress[]): void {
    for (const one of progress) if (one.kind === 'reached') actor.stepDay[`goal ${one.goal}`] ??= day;
    for (const track of this.economy.tracks.values()) {
      const level = actor.player.counters[counterKey.level(track.id)]?.count;
      if (level !== undefined) noteLevels(actor, track, level, day);
    }
  }

  /** What can be paid for where it is on sale, whatever else stands against it. */
  private noteAfforded({ player, affordedDay }: Actor, offers: readonly Offer[], day: number, nowMs: number): void {
    for (const offer of offers) {
      const items = offer.gives.map(({ asset }) => asset).filter((asset) => this.economy.items.has(asset));
      if (items.every((item) => affordedDay[item] !== undefined)) continue;
      const isPaid = waysToPay(offer).some((pay) => {
        const { price, reasons } = purchaseCheck(this.economy, player, this.shared, { offer: offer.id, pay }, nowMs);
        return price !== null && !reasons.some(({ code }) => NOT_PAYABLE.has(code));
      });
      if (isPaid) for (const item of items) affordedDay[item] ??= day;
    }
  }

  /** Shared stock that this purchase used up is sold out until some comes back. */
  private noteSoldOut({ id, stock }: Offer, { stocks }: Shared, nowMs: number): void {
    const left = stocks[id];
    if (!stock || !left || left.units > 0) return;
    this.recorder.soldOut(id, nowMs, Math.min(levelNextMs(left, stock.restock) ?? Infinity, runEndMs(this.setup)));
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
    this.recorder.count('playerDays');
    this.settle(actor, day, endMs - 1);
    const { leaves } = this.personas[actor.persona]!;
    if (leaves > 0 && numberOf(keyWith(actor.luck, LUCK.leaves, day)) < leaves) actor.lastDay = day;
  }

  private holdings(): Holdings {
    return { balances: this.balances(), here: Uint8Array.from(this.actors, ({ gone }) => (gone ? 0 : 1)) };
  }

  private balances(): Float64Array {
    const currencies = [...this.economy.currencies.keys()];
    return Float64Array.from(
      this.actors.flatMap(({ player }) => currencies.map((id) => playerHolds(this.economy, player, id))),
    );
  }

  result(): SimulationResult {
    const items = this.slots.assets.slice(this.slots.currencies).map(({ id }) => id);
    const days = (of: (actor: Actor) => Record<string, number>) =>
      Int32Array.from(this.actors.flatMap((actor) => items.map((item) => (of(actor)[item] ?? -1) + 1)));
    return this.maker.result(this.recorder.run, {
      lastDay: Int32Array.from(this.actors, ({ lastDay }) => lastDay),
      balances: this.balances(),
      ownedDay: days(({ ownedDay }) => ownedDay),
      affordedDay: days(({ affordedDay }) => affordedDay),
      stepDay: Int32Array.from(
        this.actors.flatMap(({ stepDay }) =>
          this.slots.steps.map((step) => (stepDay[`${step.kind} ${stepKey(step)}`] ?? -1) + 1),
        ),
      ),
      shopDays: Int32Array.from(this.actors, ({ shopDays }) => shopDays.size),
      reasonDays: Int32Array.from(
        this.actors.flatMap(({ reasonDays }) =>
          this.slots.watched.map((code) => [...reasonDays].filter((one) => one.startsWith(`${code} `)).length),
        ),
      ),
    });
  }
}
