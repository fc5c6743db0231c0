/** What players do and what is done to them: purchases, game events, grants. All decisions are core's. */
import { and, eq, sql } from 'drizzle-orm';
import type { Basket } from '../core/amount/index.js';
import type { Economy } from '../core/economy/index.js';
import { eventApply } from '../core/earning/index.js';
import type { GameEvent } from '../core/earning/index.js';
import type { Value } from '../core/formula/index.js';
import { worldAccount } from '../core/ledger/index.js';
import { playerCreate, playerHolds, playerPay, playerReceive, playerSettle } from '../core/player/index.js';
import { ACTS, purchaseApply, purchaseCheck } from '../core/trade/index.js';
import { verdictExplain } from '../core/texts/index.js';
import type { ActKind, ActRequest, ActVerdict, PurchaseRequest } from '../core/trade/index.js';
import type { Explained } from '../core/texts/index.js';
import type { ActAnswer, EventAnswer, GrantAnswer, PurchaseAnswer } from '../contract/index.js';
import { keyReused, oncePerKey } from './once.js';
import type { Once } from './once.js';
import { Problem, invalid, notFound } from './problem.js';
import type { Database } from './store/database.js';
import type { PlayerStore } from './store/playerStore.js';
import { acts, events, grants, purchases } from './store/tables.js';
import type { Writer } from './store/writer.js';
import type { Sources } from './sources.js';
import type { Trail } from './trail.js';

export class Trading {
  private readonly statements: ReturnType<typeof prepareStatements>;

  constructor(
    database: Database,
    private readonly writer: Writer,
    private readonly players: PlayerStore,
    private readonly sources: Sources,
    private readonly trail: Trail,
    private readonly now: () => number,
  ) {
    this.statements = prepareStatements(database);
  }

  /** Creates a player with the live release's start balances. */
  create(id: string, name: string, attributes: Record<string, Value>, who: string): Promise<void> {
    return this.writer.submit(() => {
      if (this.players.get(id)) throw new Problem('already-there', `There is already a player "${id}".`);
      const { economy, release } = this.sources.live();
      const unknown = Object.keys(attributes).find((attribute) => !economy.attributes.has(attribute));
      if (unknown !== undefined)
        throw new Problem('invalid', `The economy has no attribute "${unknown}".`, {
          errors: [
            {
              pointer: `/attributes/${unknown}`,
              code: 'unknown-field',
              detail: `unknown attribute "${unknown}"`,
              fix: `Attributes: ${[...economy.attributes.keys()].join(', ')}.`,
            },
          ],
        });
      const nowMs = this.now();
      const { player, movements } = playerCreate(economy, id, name, nowMs, attributes);
      this.players.create(player);
      this.players.appendMovements(id, release, nowMs, movements);
      this.trail.add(who, 'player.create', id);
    });
  }

  /** Buys once per key: a repeat of the same request gives the first answer again, and takes nothing. */
  buy(playerId: string, request: PurchaseRequest, key: string, channel?: string): Promise<Once<PurchaseAnswer>> {
    const asked = JSON.stringify([
      request.offer,
      request.times ?? 1,
      request.pay ?? null,
      request.expect ? Object.entries(request.expect).sort() : null,
    ]);
    const now = () => {
      const { player } = this.held(playerId);
      const { economy, release } = this.sources.live(channel);
      const atMs = this.now();
      const shared = this.players.shared();
      const verdict = purchaseCheck(economy, player, shared, request, atMs);
      const explained = verdictExplain(economy, verdict);
      if (!verdict.allowed)
        throw new Problem('purchase-refused', explained.reasons.map(({ sentence }) => sentence).join(' '), {
          verdict: explained,
        });
      const bought = purchaseApply(economy, player, shared, verdict);
      this.players.save(player, bought.player);
      this.players.saveShared(bought.shared);
      this.players.appendMovements(playerId, release, atMs, bought.movements);
      const answer = { release, verdict: explained };
      const row = this.statements.addPurchase.get({
        player: playerId,
        key,
        request: asked,
        offer: verdict.offer,
        times: verdict.times,
        release,
        atMs,
        answer: JSON.stringify(answer),
      });
      return { id: row.id, answer };
    };
    return this.writer.submit(() => {
      const before = this.statements.purchase.get({ player: playerId, key });
      return oncePerKey('purchase', { key, asked, before }, now);
    });
  }

  /** Sells back, uses, opens or collects once per key. A refusal keeps no key: it can be tried again. */
  act(kind: ActKind, playerId: string, request: ActRequest, key: string, channel?: string): Promise<Once<ActAnswer>> {
    return this.writer.submit(() => {
      const done = this.actNow(kind, playerId, request, key, channel);
      if (!done.answer.verdict.allowed)
        throw new Problem('act-refused', done.answer.verdict.reasons.map(({ sentence }) => sentence).join(' '), {
          verdict: done.answer.verdict,
        });
      return done;
    });
  }

  /**
   * Uses reported in one batch, each with its own key; a refusal of one stops none of the others. A key that belongs to
   * another request refuses the whole batch, and that is seen before any of it is written.
   */
  useMany(
    playerId: string,
    uses: readonly (ActRequest & { id: string })[],
    channel?: string,
  ): Promise<(ActAnswer & { id: string })[]> {
    return this.writer.submit(() => {
      this.keysFree(playerId, uses);
      return uses.map(({ id, ...request }) => ({ id, ...this.actNow('use', playerId, request, id, channel).answer }));
    });
  }

  /** Throws when a key was used for another request, before or within the batch. */
  private keysFree(playerId: string, uses: readonly (ActRequest & { id: string })[]): void {
    const asked = new Map<string, string>();
    for (const { id, ...request } of uses) {
      const words = actWords('use', request);
      const first = asked.get(id) ?? this.statements.act.get({ player: playerId, key: id })?.request;
      if (first !== undefined && first !== words) throw keyReused(id);
      asked.set(id, words);
    }
  }

  /** What an act would do; nothing happens. */
  actAsk(kind: ActKind, playerId: string, request: ActRequest, channel?: string): ActAnswer {
    const { player } = this.held(playerId);
    const { economy, release } = this.sources.live(channel);
    const verdict = ACTS[kind].check(economy, player, this.players.shared(), request, this.now());
    return { act: 0, ...nothingDone(release, verdictExplain(economy, verdict)) };
  }

  private actNow(kind: ActKind, playerId: string, request: ActRequest, key: string, channel?: string): Once<ActAnswer> {
    const asked = actWords(kind, request);
    const before = this.statements.act.get({ player: playerId, key });
    return oncePerKey('act', { key, asked, before }, () => {
      const { player } = this.held(playerId);
      const { economy, release } = this.sources.live(channel);
      const atMs = this.now();
      const shared = this.players.shared();
      const verdict = ACTS[kind].check(economy, player, shared, request, atMs);
      const explained = verdictExplain(economy, verdict);
      // A refusal keeps no key: it can be tried again.
      if (!verdict.allowed) return { id: 0, answer: nothingDone(release, explained) };
      const acted = ACTS[kind].apply(economy, player, shared, verdict);
      this.players.save(player, acted.player);
      this.players.saveShared(acted.shared);
      this.players.appendMovements(playerId, release, atMs, acted.movements);
      const { given, dropped, set } = acted;
      const answer = { release, verdict: explained, given, dropped, set };
      const row = this.statements.addAct.get({
        player: playerId,
        key,
        kind,
        request: asked,
        release,
        atMs,
        answer: JSON.stringify(answer),
      });
      return { id: row.id, answer };
    });
  }

  /** Handles events in order, each id once for ever. */
  report(playerId: string, list: readonly GameEvent[], channel?: string): Promise<EventAnswer[]> {
    return this.writer.submit(() =>
      list.map((event) => {
        const before = this.statements.event.get({ player: playerId, id: event.id });
        if (before) return { ...(JSON.parse(before.answer) as EventAnswer), repeated: true };
        const { player } = this.held(playerId);
        const { economy, release } = this.sources.live(channel);
        const atMs = this.now();
        const earned = eventApply(economy, player, event, atMs);
        this.players.save(player, earned.player);
        this.players.appendMovements(playerId, release, atMs, earned.movements);
        const answer: EventAnswer = { id: event.id, name: event.name, repeated: false, outcomes: earned.outcomes };
        this.statements.addEvent.run({
          player: playerId,
          id: event.id,
          name: event.name,
          atMs,
          answer: JSON.stringify(answer),
        });
        return answer;
      }),
    );
  }

  /** Support gives and takes with a reason. What a cap keeps out, or is not there to be taken, is told. */
  grant(
    playerId: string,
    gives: Basket,
    takes: Basket,
    reason: string,
    who: string,
    key: string,
  ): Promise<Once<GrantAnswer>> {
    const asked = JSON.stringify([Object.entries(gives).sort(), Object.entries(takes).sort(), reason]);
    const now = () => {
      const { player } = this.held(playerId);
      const { economy, release } = this.sources.live();
      assetsKnown(economy, { gives, takes });
      const atMs = this.now();
      const settled = playerSettle(economy, player, atMs);
      const reach = Object.fromEntries(
        Object.entries(takes).map(([asset, units]) => [
          asset,
          Math.min(units, playerHolds(economy, settled.player, asset)),
        ]),
      );
      const cause = `grant:${who}`;
      const paid = playerPay(economy, settled.player, reach, worldAccount('support'), cause, atMs);
      const received = playerReceive(economy, paid.player, gives, worldAccount('support'), cause, atMs);
      this.players.save(player, received.player);
      this.players.appendMovements(playerId, release, atMs, [
        ...settled.movements,
        ...paid.movements,
        ...received.movements,
      ]);
      const missed = Object.fromEntries(
        Object.entries(takes)
          .map(([asset, units]): [string, number] => [asset, units - reach[asset]!])
          .filter(([, units]) => units > 0),
      );
      const answer = { given: received.given, taken: reach, dropped: received.dropped, missed };
      const row = this.statements.addGrant.get({
        player: playerId,
        key,
        request: asked,
        who,
        reason,
        atMs,
        answer: JSON.stringify(answer),
      });
      this.trail.add(who, 'player.grant', playerId, reason);
      return { id: row.id, answer };
    };
    return this.writer.submit(() => {
      const before = this.statements.grant.get({ player: playerId, key });
      return oncePerKey('grant', { key, asked, before }, now);
    });
  }

  private held(id: string) {
    const held = this.players.get(id);
    if (!held) throw notFound('player', id);
    return held;
  }
}

/** What was asked for, to tell a repeat from another request under the same key. */
const actWords = (kind: ActKind, { item, times = 1, shop, expect }: ActRequest): string =>
  JSON.stringify([kind, item, times, shop ?? null, expect ? Object.entries(expect).sort() : null]);

const nothingDone = (release: number, verdict: Explained<ActVerdict>): Omit<ActAnswer, 'act'> => ({
  release,
  verdict,
  given: {},
  dropped: {},
  set: {},
});

/** Throws a problem that names every asset that the economy does not have. */
function assetsKnown(economy: Economy, baskets: Record<string, Basket>): void {
  const issues = Object.entries(baskets).flatMap(([field, basket]) =>
    Object.keys(basket)
      .filter((asset) => !economy.currencies.has(asset) && !economy.items.has(asset))
      .map((asset) => ({
        code: 'dangling-reference' as const,
        pointer: `/${field}/${asset}`,
        message: `there is no currency or item "${asset}"`,
        fix: 'Name one that exists.',
      })),
  );
  if (issues.length > 0) throw invalid('The basket does not fit the live release.', issues);
}

function prepareStatements({ db }: Database) {
  const at = (name: string) => sql.placeholder(name);
  return {
    purchase: db
      .select({ id: purchases.id, request: purchases.request, answer: purchases.answer })
      .from(purchases)
      .where(and(eq(purchases.player, at('player')), eq(purchases.key, at('key'))))
      .prepare(),
    addPurchase: db
      .insert(purchases)
      .values({
        player: at('player'),
        key: at('key'),
        request: at('request'),
        offer: at('offer'),
        times: at('times'),
        release: at('release'),
        atMs: at('atMs'),
        answer: at('answer'),
      })
      .returning({ id: purchases.id })
      .prepare(),
    act: db
      .select({ id: acts.id, request: acts.request, answer: acts.answer })
      .from(acts)
      .where(and(eq(acts.player, at('player')), eq(acts.key, at('key'))))
      .prepare(),
    addAct: db
      .insert(acts)
      .values({
        player: at('player'),
        key: at('key'),
        kind: at('kind'),
        request: at('request'),
        release: at('release'),
        atMs: at('atMs'),
        answer: at('answer'),
      })
      .returning({ id: acts.id })
      .prepare(),
    event: db
      .select({ answer: events.answer })
      .from(events)
      .where(and(eq(events.player, at('player')), eq(events.id, at('id'))))
      .prepare(),
    addEvent: db
      .insert(events)
      .values({ player: at('player'), id: at('id'), name: at('name'), atMs: at('atMs'), answer: at('answer') })
      .prepare(),
    grant: db
      .select({ id: grants.id, request: grants.request, answer: grants.answer })
      .from(grants)
      .where(and(eq(grants.player, at('player')), eq(grants.key, at('key'))))
      .prepare(),
    addGrant: db
      .insert(grants)
      .values({
        player: at('player'),
        key: at('key'),
        request: at('request'),
        who: at('who'),
        reason: at('reason'),
        atMs: at('atMs'),
        answer: at('answer'),
      })
      .returning({ id: grants.id })
      .prepare(),
  };
}
