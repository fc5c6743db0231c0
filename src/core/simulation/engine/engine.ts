/**
 * The engine: the reference's game over columns. What a limit, a level, a quote, a draw or a roll is, it asks the same
 * functions as the live service; how a player's state is held, and in which order the parts of an act change it, it
 * says itself, and tests hold it to the reference byte by byte (decision 0030).
 */
import type { Basket } from '../../amount/index.js';
import { basketAdd } from '../../amount/index.js';
import { quantitiesEvaluate } from '../../economy/index.js';
import type { Economy } from '../../economy/index.js';
import type { Scope, Value } from '../../formula/index.js';
import { lootRoll } from '../../loot/index.js';
import { playerCreate, playerScope } from '../../player/index.js';
import type { Random } from '../../random/index.js';
import { firstOf, keyBegin, keyDigits, keyEnd, keyNext, keyText, randomStream, streamOf } from '../../random/index.js';
import { periodAround } from '../../schedule/index.js';
import { drawValue } from '../draw.js';
import { Recorder } from '../recorder.js';
import type { Simulator } from '../reference.js';
import { sessionCount } from '../sessions.js';
import type { SimulationResult } from '../result.js';
import type { RunSetup } from '../scenario.js';
import { Crowd } from './crowd.js';
import { Shopping } from './shop.js';
import type { PersonaSlot } from './shop.js';
import { slotsMake } from './slots.js';
import type { ActivitySlot, RuleSlot, Slots } from './slots.js';
import { State } from './state.js';

const HOUR_MS = 3_600_000;
const MINUTE_MS = 60_000;

interface Session {
  player: number;
  /** The day on which it begins, and which of that day's it is: what its luck is keyed by. */
  day: number;
  number: number;
  /** Planned; it begins when the one before is over. */
  startMs: number;
  at: 'planned' | 'play' | 'visit';
  nowMs: number;
  endMs: number;
  turn: number;
}

/** O(players x days x sessions x offers), without a state of its own for each day. */
export const simulateEngine: Simulator = (setup, { onDay } = {}) => {
  const run = new Engine(setup);
  for (let day = 0; day < setup.days; day++) {
    run.day(day);
    onDay?.(day + 1, setup.days);
  }
  return run.result();
};

class Engine {
  private readonly economy: Economy;
  private readonly slots: Slots;
  private readonly personas: PersonaSlot[];
  private readonly crowd: Crowd;
  private readonly recorder: Recorder;
  private readonly state: State;
  private readonly shopping: Shopping;
  /** Sessions that went on when the last day ended. */
  private carried: Session[] = [];
  /** That of the player who acts. */
  private persona!: PersonaSlot;

  constructor(private readonly setup: RunSetup) {
    const { economy, crowd, days } = setup;
    this.economy = economy;
    this.slots = slotsMake(economy);
    this.personas = crowd.map(({ persona: id }) => {
      const persona = economy.personas.get(id)!;
      return {
        persona,
        plays: persona.plays
          .filter(({ weight }) => weight > 0)
          .map(({ activity, weight }) => ({ slot: this.slots.activities.get(activity.id)!, weight })),
        keeps: Float64Array.from(this.slots.assets, ({ id: asset }) => persona.spending.keeps[asset] ?? 0),
      };
    });
    const players = crowd.reduce((sum, one) => sum + one.players, 0);
    this.crowd = new Crowd(this.slots, players, days - 1);
    this.recorder = new Recorder(
      setup,
      crowd.map(({ persona, players: count }, index) => ({
        id: persona,
        name: this.personas[index]!.persona.name,
        players: count,
      })),
      players,
    );
    this.state = new State(setup, this.slots, this.crowd, this.recorder);
    this.shopping = new Shopping(economy, this.slots, this.crowd, this.recorder, this.state);
    let player = 0;
    for (const [persona, { players: count }] of crowd.entries())
      for (let number = 0; number < count; number++) this.join(player++, persona, number);
  }

  private enter(player: number): void {
    this.state.enter(player);
    this.persona = this.personas[this.crowd.persona[player]!]!;
  }

  private join(player: number, persona: number, number: number): void {
    const { crowd, setup, economy, slots } = this;
    const { id, attributes: rules } = this.personas[persona]!.persona;
    const key = `${id}-${number}`;
    crowd.persona[player] = persona;
    crowd.keys.push(key);
    crowd.luck[player] = keyNext(keyText(keyBegin(setup.seed), key));
    const random = randomStream(setup.seed, key, 'attributes');
    const { player: blank } = playerCreate(economy, key, key, setup.startMs);
    const scope = playerScope(economy, blank, setup.startMs);
    const attributes: Record<string, Value> = { ...blank.attributes };
    for (const { attribute, draw } of rules) attributes[attribute] = drawValue(draw, random, scope);
    crowd.attributes.push(attributes);
    this.enter(player);
    this.state.todayIs = 0;
    slots.assets.slice(0, slots.currencies).forEach(({ currency }, slot) => {
      this.state.levelSet(slot, blank.balances[currency!.id]!);
      if (currency!.start === 0) return;
      // What a player begins with is not earned.
      this.state.cameIn(slot, currency!.start, slots.causeOf.get('start:new_player')!);
      crowd.earned[player * crowd.assets + slot] = 0;
    });
  }

  day(day: number): void {
    const { crowd, economy, setup } = this;
    this.state.todayIs = day;
    // Noon of the first day plus whole days of 24 hours stays within the right day across daylight-saving changes.
    const firstNoonMs = periodAround(economy.zone, 'day', setup.startMs).startMs + 12 * HOUR_MS;
    const { startMs, endMs } = periodAround(economy.zone, 'day', firstNoonMs + day * 24 * HOUR_MS);
    const sessions = this.carried.filter(({ player }) => crowd.gone[player] === 0);
    for (let player = 0; player < crowd.players; player++)
      if (crowd.gone[player] === 0) this.plan(player, day, startMs, sessions);
    sessions.sort((a, b) => a.startMs - b.startMs || a.player - b.player || a.number - b.number);
    this.carried = sessions.filter((session) => !this.session(session, endMs));
    for (let player = 0; player < crowd.players; player++)
      if (crowd.gone[player] === 0) this.nightfall(player, day, endMs);
    this.recordDay(day);
    for (let player = 0; player < crowd.players; player++) if (crowd.lastDay[player] === day) crowd.gone[player] = 1;
  }

  /** The sessions of a day, none beginning before the one before it should be over. */
  private plan(player: number, day: number, dayStartMs: number, into: Session[]): void {
    const { crowd, setup } = this;
    const { perDay, minutes, fromHour, toHour } = this.personas[crowd.persona[player]!]!.persona.sessions;
    const random = this.stream(player, 'sessions', day);
    const count = sessionCount(random, perDay);
    const hours = ((toHour - fromHour + 24) % 24) + 1;
    const starts: number[] = [];
    for (let number = 0; number < count; number++)
      starts.push(Math.max(setup.startMs, Math.floor(dayStartMs + (fromHour + random() * hours) * HOUR_MS)));
    if (count > 1) starts.sort((a, b) => a - b);
    let freeMs = crowd.busyUntil[player]!;
    for (let number = 0; number < count; number++) {
      const startMs = Math.max(starts[number]!, freeMs);
      freeMs = startMs + minutes * MINUTE_MS;
      into.push({ player, day, number, startMs, at: 'planned', nowMs: 0, endMs: 0, turn: 0 });
    }
  }

  private stream(player: number, purpose: string, day: number): Random {
    return streamOf(keyEnd(keyNext(keyDigits(keyNext(keyText(this.crowd.luck[player]!, purpose)), day))));
  }

  /** Plays a session as far as its day goes; false where it goes on after midnight. */
  private session(session: Session, dayEndMs: number): boolean {
    const { crowd } = this;
    this.enter(session.player);
    const { sessions } = this.persona.persona;
    if (session.at === 'planned') {
      // The one before may have run over its time.
      const startMs = Math.max(session.startMs, crowd.busyUntil[session.player]!);
      if (startMs >= dayEndMs) return false;
      session.at = 'play';
      session.nowMs = startMs;
      session.endMs = startMs + sessions.minutes * MINUTE_MS;
      crowd.busyUntil[session.player] = session.endMs;
      this.recorder.totals.sessions++;
      this.state.settle(startMs);
    }
    if (session.at === 'play') {
      const luck = keyNext(keyText(crowd.luck[session.player]!, 'play'));
      const keyed = keyNext(keyDigits(keyNext(keyDigits(luck, session.day)), session.number));
      while (session.nowMs < session.endMs) {
        const random = streamOf(keyEnd(keyNext(keyDigits(keyed, session.turn))));
        const slot = this.pickActivity(random());
        if (!slot) break;
        const doneMs = session.nowMs + Math.round(slot.activity.minutes * MINUTE_MS);
        if (doneMs >= dayEndMs) return false;
        this.play(slot, random, session, doneMs);
        session.nowMs = doneMs;
        session.turn++;
      }
      session.nowMs = Math.max(session.nowMs, session.endMs);
      crowd.busyUntil[session.player] = session.nowMs;
      session.at = 'visit';
    }
    if (session.nowMs >= dayEndMs) return false;
    this.shopping.shop(this.persona, session.day, session.number, session.nowMs);
    return true;
  }

  /** One of the activities whose entry the player can pay, by weight; none when there is none. */
  private pickActivity(luck: number): ActivitySlot | undefined {
    const { plays } = this.persona;
    let total = 0;
    let last: ActivitySlot | undefined;
    for (const { slot, weight } of plays)
      if (this.state.holdsAll(slot.needs)) {
        total += weight;
        last = slot;
      }
    let left = luck * total;
    for (const { slot, weight } of plays) {
      if (!this.state.holdsAll(slot.needs)) continue;
      left -= weight;
      if (left < 0) return slot;
    }
    return last;
  }

  private play({ activity, needs, cause }: ActivitySlot, random: Random, session: Session, nowMs: number): void {
    this.state.nowMs = nowMs;
    this.state.pay(needs, cause);
    this.state.fields = undefined;
    // All are drawn before any pays: what an event pays does not reach into the ones beside it.
    const drawn = activity.emits.map(({ fields }) => {
      const values: Record<string, Value> = {};
      for (const { field, draw } of fields) values[field] = drawValue(draw, random, this.state.scope);
      return values;
    });
    activity.emits.forEach(({ event }, index) => this.event(event, drawn[index]!, session, nowMs));
  }

  private event(name: string, fields: Readonly<Record<string, Value>>, session: Session, nowMs: number): void {
    this.state.fields = undefined;
    this.state.settle(nowMs);
    this.recorder.totals.events++;
    this.state.fields = fields;
    // The event's id, `DAY-NUMBER-TURN-NAME`, as far as luck is keyed by it.
    let key = keyText(keyDigits(this.crowd.luck[session.player]!, session.day), '-');
    key = keyText(keyDigits(key, session.number), '-');
    key = keyNext(keyText(keyText(keyDigits(key, session.turn), '-'), name));
    for (const rule of this.slots.rules.get(name) ?? []) this.earn(rule, key);
    this.state.fields = undefined;
  }

  private earn({ rule, cause, limits, takes, gives, loot }: RuleSlot, eventKey: number): void {
    const { economy, state } = this;
    const { scope } = state;
    if (rule.when && rule.when.run(scope) !== true) return;
    for (const one of limits) if (this.state.isReached(one)) return;
    const ruleKey = keyNext(keyText(eventKey, rule.id));
    const chance = typeof rule.chance === 'number' ? rule.chance : (rule.chance.run(scope) as number);
    if (chance < 1 && !(firstOf(keyEnd(ruleKey)) < chance)) return;
    const taken = takes ?? evaluated(rule.takes, scope);
    const given = gives?.gives ?? evaluated(rule.gives, scope);
    if (!taken || !given) return;
    for (const asset in taken) {
      const slot = this.slots.assetOf.get(asset)!;
      // A rule never takes more than there is.
      const reach = Math.min(taken[asset]!, this.state.heldOf(slot));
      if (reach > 0) this.state.give(slot, reach, cause);
    }
    let due: Readonly<Basket> = given;
    if (loot !== undefined) {
      const since = this.crowd.counter(this.state.player, loot)?.count ?? 0;
      const random = streamOf(keyEnd(keyNext(keyText(ruleKey, 'loot'))));
      // What a table's conditions read knows nothing of the event.
      const { fields } = state;
      this.state.fields = undefined;
      const rolled = lootRoll(economy, economy.loot.get(rule.loot!)!, scope, random, since);
      this.state.fields = fields;
      if (rolled.since !== since) this.crowd.counterSet(this.state.player, loot, { count: rolled.since, startMs: 0 });
      const sum = { ...given };
      for (const asset in rolled.gives) basketAdd(sum, asset, rolled.gives[asset]!);
      due = sum;
    }
    if (gives && due === gives.gives && !gives.hasBundle)
      for (let i = 0; i < gives.arrivals.slots.length; i++)
        this.state.arrive(gives.arrivals.slots[i]!, gives.arrivals.units[i]!, cause, null);
    else this.state.receive(due, cause);
    for (const { limit, counter } of limits) this.state.countOnce(limit, counter);
  }

  private nightfall(player: number, day: number, endMs: number): void {
    const { crowd } = this;
    this.recorder.totals.playerDays++;
    this.enter(player);
    this.state.settle(endMs - 1);
    const { leaves } = this.persona.persona;
    if (
      leaves > 0 &&
      firstOf(keyEnd(keyNext(keyDigits(keyNext(keyText(crowd.luck[player]!, 'leaves')), day)))) < leaves
    )
      crowd.lastDay[player] = day;
  }

  private recordDay(day: number): void {
    const { crowd, slots, recorder, state } = this;
    state.flowsTell();
    const held = this.personas.map(() => Array.from({ length: slots.currencies }, () => [] as number[]));
    for (let player = 0; player < crowd.players; player++)
      if (crowd.gone[player] === 0)
        for (let currency = 0; currency < slots.currencies; currency++)
          held[crowd.persona[player]!]![currency]!.push(crowd.units[player * crowd.assets + currency]!);
    recorder.dayEnds(day, held);
  }

  result(): SimulationResult {
    const { crowd, slots, recorder } = this;
    const players = Array.from({ length: crowd.players }, (_, player) => player);
    for (const player of players)
      for (let slot = slots.currencies; slot < crowd.assets; slot++) {
        const day = crowd.firstDay[player * crowd.assets + slot]!;
        if (day >= 0) recorder.owns(player, slots.assets[slot]!.id, day);
      }
    return recorder.result(
      players.map((player) => ({
        persona: crowd.persona[player]!,
        lastDay: crowd.lastDay[player]!,
        balances: Array.from(
          { length: slots.currencies },
          (_, currency) => crowd.units[player * crowd.assets + currency]!,
        ),
      })),
    );
  }
}

function evaluated(quantities: Parameters<typeof quantitiesEvaluate>[0], scope: Scope): Basket | undefined {
  const result = quantitiesEvaluate(quantities, scope);
  return result.ok ? result.basket : undefined;
}
