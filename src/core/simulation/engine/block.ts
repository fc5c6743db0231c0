/**
 * A block of the engine: some players who share at most stock with others, played day by day over columns. What a limit,
 * a level, a quote, a draw or a roll is, it asks the same functions as the live service; how a player's state is held,
 * and in which order the parts of an act change it, it says itself, and tests hold it to the reference byte by byte
 * (decision 0030).
 */
import type { Value } from '../../formula/index.js';
import { playerCreate, playerScope } from '../../player/index.js';
import type { Key } from '../../random/index.js';
import { Luck, streamOf } from '../../random/index.js';
import { runDay, runWeekday } from '../days.js';
import { drawValue } from '../draw.js';
import { LUCK, playerLuck } from '../luck.js';
import type { Holdings, PlayerEnds } from '../holdings.js';
import { RunStopped } from '../scenario.js';
import type { RunSetup } from '../scenario.js';
import { sessionBegins, sessionsDraw } from '../sessions.js';
import { TOTAL, dayTally, runTally, tallyAdd } from '../tally.js';
import type { DayTally, RunTally } from '../tally.js';
import { Crowd } from './crowd.js';
import type { CrowdState } from './crowd.js';
import { Earning } from './earning.js';
import type { Play } from './earning.js';
import { Progress } from './progress.js';
import type { SharedStock } from './shared.js';
import { Shopping } from './shop.js';
import type { PersonaSlot } from './shop.js';
import type { Slots } from './slots.js';
import { State } from './state.js';

const HOUR_MS = 3_600_000;
const MINUTE_MS = 60_000;
/** Of one day: with its milliseconds before it, each has a whole number of its own below 2^53. */
const MOST_SESSIONS = 2 ** 24;
/** How many sessions between two reports of how far a day is. */
const PART = 1024;
const START: Key = { high: 0, low: 0 };

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

/** Players of a run by their place in it, the last not included. */
export interface BlockRange {
  from: number;
  to: number;
}

/** What happened on a day, and what players hold at its end. */
export interface BlockDay {
  tally: DayTally;
  holdings: Holdings;
}

/** What came of the players of a block. */
export interface BlockEnd {
  tally: RunTally;
  ends: PlayerEnds;
}

/** Everything that the days to come depend on, but for shared stock: it can be kept, and sent to another machine. */
export interface BlockState {
  crowd: CrowdState;
  carried: Session[];
  /** What was counted so far, and what is counted for the next day already. */
  tally: RunTally;
  today: DayTally;
}

/** Over `range` of the players of a run, from the first day on or from a state that a block of the same range was in. */
export class Block {
  private readonly personas: PersonaSlot[];
  private readonly crowd: Crowd;
  private readonly run: RunTally;
  private readonly state: State;
  private readonly progress: Progress;
  private readonly earning: Earning;
  private readonly shopping: Shopping;
  /** Sessions that went on when the last day ended. */
  private carried: Session[] = [];
  /** That of the player who acts. */
  private persona!: PersonaSlot;
  private readonly luck = new Luck();
  private readonly sessionLuck = new Luck();
  private readonly eventsLuck = new Luck();
  private readonly turnLuck = new Luck();
  private readonly starts: number[] = [];
  /** Which of a persona's activities can be paid for. */
  private readonly affordable: Int32Array;

  constructor(
    private readonly setup: RunSetup,
    private readonly slots: Slots,
    { from, to }: BlockRange,
    private readonly shared: SharedStock,
    state?: BlockState,
  ) {
    const { economy, crowd, days } = setup;
    this.affordable = new Int32Array(economy.activities.size);
    this.run = runTally(slots, crowd.length);
    this.crowd = new Crowd(slots, to - from, days - 1);
    this.state = new State(setup, slots, this.crowd, this.run);
    this.progress = new Progress(setup, slots, this.crowd, this.state);
    this.earning = new Earning(setup, slots, this.crowd, this.run, this.state, this.progress);
    this.shopping = new Shopping(setup, slots, this.crowd, this.run, this.state, shared, this.progress);
    this.personas = crowd.map(({ persona: id }) => {
      const persona = economy.personas.get(id)!;
      return {
        persona,
        plays: persona.plays
          .filter(({ weight }) => weight > 0)
          .map(({ activity, weight }) => ({ play: this.earning.playOf(activity), weight })),
        sessions: sessionsDraw(() => this.luck.next(), persona.sessions),
        wishes: persona.spending.wishes.map((item) => slots.assetOf.get(item)!),
        keeps: Float64Array.from(slots.assets, ({ id: asset }) => persona.spending.keeps[asset] ?? 0),
      };
    });
    if (state) {
      this.crowd.restore(state.crowd);
      this.carried = structuredClone(state.carried);
      tallyAdd(this.run, state.tally);
      tallyAdd(this.state.today, state.today);
      return;
    }
    let place = 0;
    for (const [persona, { players }] of crowd.entries())
      for (let number = 0; number < players; number++, place++)
        if (place >= from && place < to) this.join(place - from, persona, number);
  }

  private enter(player: number): void {
    this.state.enter(player);
    this.persona = this.personas[this.crowd.persona[player]!]!;
  }

  private join(player: number, persona: number, number: number): void {
    const { crowd, setup, slots } = this;
    const { economy } = setup;
    const { id, attributes: rules } = this.personas[persona]!.persona;
    crowd.persona[player] = persona;
    crowd.number[player] = number;
    const luck = playerLuck(setup.seed, id, number);
    crowd.luckHigh[player] = luck.high;
    crowd.luckLow[player] = luck.low;
    const { player: blank } = playerCreate(economy, id, id, setup.startMs);
    const scope = playerScope(economy, blank, setup.startMs);
    const random = streamOf(this.luckOf(player).add(LUCK.attributes));
    const drawn: Record<string, Value> = {};
    for (const { attribute, draw } of rules) drawn[attribute] = drawValue(draw, random, scope);
    for (const name of slots.attributes)
      crowd.attributes.push(drawn[name] ?? blank.attributes[name] ?? economy.attributes.get(name)!);
    this.enter(player);
    for (let slot = 0; slot < slots.currencies; slot++) {
      const { units, sinceMs } = blank.balances[slots.assets[slot]!.id]!;
      this.state.begin(slot, units, sinceMs);
    }
    this.progress.joins();
  }

  /** The key of all that a player draws, to be added to. */
  private luckOf(player: number): Luck {
    const { luck, crowd } = this;
    luck.from(START);
    luck.high = crowd.luckHigh[player]!;
    luck.low = crowd.luckLow[player]!;
    return luck;
  }

  /** Plays the next day: what happened in it, and what its players hold at its end. `onPart` is told how much of it is done. */
  day(day: number, onPart: (share: number) => void = () => undefined): BlockDay {
    const { crowd, state, shared, setup, slots } = this;
    state.todayIs = day;
    const { startMs, endMs } = runDay(setup, day);
    shared.dayBegins(startMs);
    const sessions = this.sessionsOf(day, startMs);
    this.carried = [];
    let stopped: RunStopped | undefined;
    try {
      sessions.forEach((session, place) => {
        shared.sessionBegins(session.startMs);
        try {
          if (!this.session(session, endMs)) this.carried.push(session);
        } catch (error) {
          if (!(error instanceof RunStopped)) throw error;
          // Sessions are not always played in the order of the clock, and the first by the clock is told.
          error.sessionMs = session.startMs;
          if (!stopped || error.sessionMs < stopped.sessionMs) stopped = error;
        }
        if (place % PART === 0) onPart(place / sessions.length);
      });
    } finally {
      // Nobody waits for a block that has stopped.
      shared.dayEnds();
    }
    if (stopped) throw stopped;
    for (let player = 0; player < crowd.players; player++)
      if (crowd.gone[player] === 0) this.nightfall(player, day, endMs);
    const holdings = this.holdings();
    const tally = state.today;
    state.today = dayTally(slots, setup.crowd.length);
    for (let player = 0; player < crowd.players; player++) if (crowd.lastDay[player] === day) crowd.gone[player] = 1;
    return { tally, holdings };
  }

  /** Those that went on and those that are planned, in the order (start, player, number). */
  private sessionsOf(day: number, dayStartMs: number): Session[] {
    const { crowd } = this;
    const planned = this.carried.filter(({ player }) => crowd.gone[player] === 0);
    const isPlain = planned.length === 0;
    const weekday = runWeekday(this.setup, dayStartMs);
    for (let player = 0; player < crowd.players; player++)
      if (crowd.gone[player] === 0) this.plan(player, day, weekday, dayStartMs, planned);
    // Players who share nothing may as well play one after the other, which keeps what is theirs at hand.
    if (isPlain && this.slots.sharedStocks === 0) return planned;
    // Among equal starts the place in this list decides.
    if (!isPlain) planned.sort((a, b) => a.player - b.player || a.number - b.number);
    // Starts and places fit into one number each, which sorts ten times as fast as a comparison does.
    const order = new Float64Array(planned.length);
    for (let place = 0; place < order.length; place++)
      order[place] = (planned[place]!.startMs - dayStartMs) * MOST_SESSIONS + place;
    order.sort();
    const sorted: Session[] = [];
    for (let i = 0; i < order.length; i++)
      sorted.push(planned[((order[i]! % MOST_SESSIONS) + MOST_SESSIONS) % MOST_SESSIONS]!);
    return sorted;
  }

  /** The sessions of a day, none beginning before the one before it should be over. */
  private plan(player: number, day: number, weekday: number, dayStartMs: number, into: Session[]): void {
    const { crowd, setup, luck, starts } = this;
    const slot = this.personas[crowd.persona[player]!]!;
    const { minutes, begins } = slot.persona.sessions;
    this.luckOf(player).add(LUCK.sessions).add(day);
    const count = slot.sessions[weekday]!();
    // In order, each put where it belongs: setting the length of the list would take longer.
    for (let number = 0; number < count; number++) {
      const start = Math.max(setup.startMs, Math.floor(dayStartMs + sessionBegins(begins, luck.next()) * HOUR_MS));
      let place = number;
      for (; place > 0 && starts[place - 1]! > start; place--) starts[place] = starts[place - 1]!;
      starts[place] = start;
    }
    let freeMs = crowd.busyUntil[player]!;
    for (let number = 0; number < count; number++) {
      const startMs = Math.max(starts[number]!, freeMs);
      freeMs = startMs + minutes * MINUTE_MS;
      into.push({ player, day, number, startMs, at: 'planned', nowMs: 0, endMs: 0, turn: 0 });
    }
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
      this.run.totals[TOTAL.sessions]!++;
      this.state.settle(startMs);
    }
    if (session.at === 'play') {
      if (!this.playOn(session, dayEndMs)) return false;
      session.nowMs = Math.max(session.nowMs, session.endMs);
      crowd.busyUntil[session.player] = session.nowMs;
      session.at = 'visit';
    }
    if (session.nowMs >= dayEndMs) return false;
    this.shopping.shop(this.persona, session.day, session.number, session.nowMs);
    return true;
  }

  /** Turn after turn, as long as the session goes; false where it goes on after midnight. */
  private playOn(session: Session, dayEndMs: number): boolean {
    const { earning, sessionLuck, eventsLuck, turnLuck } = this;
    const { player, day, number } = session;
    sessionLuck.from(this.luckOf(player).add(LUCK.play).add(day).add(number));
    eventsLuck.from(this.luckOf(player).add(LUCK.event).add(day).add(number));
    while (session.nowMs < session.endMs) {
      earning.turn.from(sessionLuck).add(session.turn);
      const play = this.pickActivity(earning.turn.next());
      if (!play) break;
      const doneMs = session.nowMs + play.minutesMs;
      if (doneMs >= dayEndMs) return false;
      earning.play(play, turnLuck.from(eventsLuck).add(session.turn), doneMs);
      session.nowMs = doneMs;
      session.turn++;
    }
    return true;
  }

  /** One of the activities whose entry the player can pay, by weight; none when there is none. */
  private pickActivity(luck: number): Play | undefined {
    const { affordable } = this;
    const { plays } = this.persona;
    let count = 0;
    let total = 0;
    for (let i = 0; i < plays.length; i++)
      if (this.state.holdsAll(plays[i]!.play.needs)) {
        total += plays[i]!.weight;
        affordable[count++] = i;
      }
    let left = luck * total;
    for (let place = 0; place < count; place++) {
      const { play, weight } = plays[affordable[place]!]!;
      left -= weight;
      if (left < 0 || place === count - 1) return play;
    }
    return undefined;
  }

  private nightfall(player: number, day: number, endMs: number): void {
    const { crowd } = this;
    this.run.totals[TOTAL.playerDays]!++;
    this.enter(player);
    this.state.settle(endMs - 1);
    const { leaves } = this.persona.persona;
    if (leaves > 0 && this.luckOf(player).add(LUCK.leaves).add(day).number() < leaves) crowd.lastDay[player] = day;
  }

  private holdings(): Holdings {
    return { balances: this.balances(), here: this.crowd.gone.map((gone) => 1 - gone) };
  }

  private balances(): Float64Array {
    const { crowd, slots } = this;
    const balances = new Float64Array(crowd.players * slots.currencies);
    for (let player = 0; player < crowd.players; player++)
      for (let currency = 0; currency < slots.currencies; currency++)
        balances[player * slots.currencies + currency] = crowd.units[player * crowd.assets + currency]!;
    return balances;
  }

  /** So far: plays, `persona * activities + activity`, and what each player holds, `player * assets + asset`. */
  soFar(): { plays: Float64Array; units: Float64Array } {
    return { plays: this.run.plays, units: this.crowd.units };
  }

  /** The state after the last day that was played. */
  save(): BlockState {
    const { crowd, carried, run, state } = this;
    return structuredClone({ crowd: crowd.save(), carried, tally: run, today: state.today });
  }

  /** What came of its players, once all days are played. */
  end(): BlockEnd {
    const { lastDay, ownedDay, affordedDay, stepDay, shopDays, reasonDays } = this.crowd;
    return {
      tally: this.run,
      ends: { lastDay, balances: this.balances(), ownedDay, affordedDay, stepDay, shopDays, reasonDays },
    };
  }
}
