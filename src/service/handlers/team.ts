/** Teams, and the places of players and teams in rankings. */
import type { PlacedRow, RankingView, TeamView } from '../../contract/index.js';
import type { Economy, Ranking } from '../../core/economy/index.js';
import type { Team } from '../../core/player/index.js';
import { teamGoalsOf } from '../../core/progress/index.js';
import { rankingContest } from '../../core/ranking/index.js';
import type { Contest, Placed, Scored } from '../../core/ranking/index.js';
import { countText } from '../../core/issue/index.js';
import { DAY_MS } from '../../core/schedule/index.js';
import { DEFAULT_LIMIT, onceReply, pageOf } from '../handler.js';
import type { Handlers } from '../handler.js';
import { instantOf } from '../instant.js';
import { Problem, notFound } from '../problem.js';
import type { Service } from '../service.js';
import { grantAsked } from './player.js';

function teamView(service: Service, id: string): TeamView {
  const team = service.teamStore.find(id);
  const { economy } = service.sources.live();
  const { kind, name, startedMs, holdings } = team;
  return {
    id,
    kind,
    name,
    startedMs,
    most: economy.teamKinds.get(kind)?.most ?? null,
    holdings: inOrder(economy, holdings),
    members: service.teamStore.members(id),
    goals: teamGoalsOf(economy, team, service.now(), true),
  };
}

/** As the economy lists them, however they came; what it has no more is last. */
function inOrder({ currencies, items }: Economy, holdings: Team['holdings']): Record<string, number> {
  const known = [...currencies.keys(), ...items.keys()].filter((asset) => asset in holdings);
  return { ...Object.fromEntries(known.map((asset) => [asset, holdings[asset]!])), ...holdings };
}

export const teamHandlers = {
  'GET /teams': ({ service, query: { search = '', kind, cursor = '', limit = DEFAULT_LIMIT } }) => ({
    body: pageOf(service.teamStore.search(search, kind, cursor, limit), limit, ({ id }) => id),
  }),
  'POST /teams': async ({ service, who, body }) => {
    await service.teams.create(body, who.name);
    return { status: 201, body: teamView(service, body.id), headers: { Location: `/api/v1/teams/${body.id}` } };
  },
  'GET /teams/{team}': ({ service, params }) => ({ body: teamView(service, params.team) }),
  'PUT /teams/{team}/name': async ({ service, who, params, body: { name } }) => {
    await service.teams.rename(params.team, name, who.name);
    return { body: teamView(service, params.team) };
  },
  'DELETE /teams/{team}': async ({ service, who, params: { team } }) => ({
    body: { team, lost: await service.teams.dissolve(team, who.name) },
  }),
  'PUT /teams/{team}/members/{player}': async ({ service, who, params: { team, player } }) => {
    await service.teams.join(team, player, who.name);
    return { body: teamView(service, team) };
  },
  'DELETE /teams/{team}/members/{player}': async ({ service, who, params: { team, player } }) => {
    await service.teams.leave(team, player, who.name);
    return { body: teamView(service, team) };
  },
  'POST /teams/{team}/grants': async ({ service, params, who, key, body }) =>
    onceReply(await service.teams.grant(params.team, grantAsked(body), who.name, key)),
  'GET /teams/{team}/ledger': ({ service, params: { team }, query: { cursor = 0, limit = DEFAULT_LIMIT } }) => {
    service.teamStore.find(team);
    return { body: pageOf(service.ledger.ofTeam(team, cursor, limit), limit, ({ id }) => id) };
  },
  'GET /rankings': ({ service, query: { channel } }) => {
    const { economy } = service.sources.live(channel);
    const items = [...economy.rankings.values()].map((ranking) =>
      rankingView(ranking, rankingContest(economy, ranking, service.now())),
    );
    return { body: { items, next: null } };
  },
  'GET /rankings/{ranking}': async ({
    service,
    params,
    query: { at, channel, cursor, limit = DEFAULT_LIMIT },
    isWanted,
  }) => {
    const { contest, economy, view } = rankingAsked(service, params.ranking, at, channel);
    const last = cursor === undefined ? undefined : lastOf(cursor);
    const body = await service.rankings.ask(
      contest,
      economy,
      service.now(),
      (places) => {
        const { items, isEnd } = places.after(last, limit);
        const { score, who } = items.at(-1) ?? {};
        return {
          ...view,
          of: places.of,
          items: rows(service, contest, items),
          next: isEnd || who === undefined ? null : `${score} ${who}`,
        };
      },
      isWanted,
    );
    return { body };
  },
  'GET /rankings/{ranking}/places/{who}': async ({ service, params, query: { at, channel, around = 2 }, isWanted }) => {
    const { contest, economy, view } = rankingAsked(service, params.ranking, at, channel);
    const { who } = params;
    if (contest.holder === 'player') service.players.find(who);
    else service.teamStore.find(who);
    const body = await service.rankings.ask(
      contest,
      economy,
      service.now(),
      (places) => {
        const found = places.around(who, around);
        return { ...view, of: places.of, who, ...found, around: rows(service, contest, found.around) };
      },
      isWanted,
    );
    return { body };
  },
} satisfies Partial<Handlers>;

const rankingView = ({ id, name, description, of, by }: Ranking, contest: Contest): RankingView => ({
  ranking: id,
  name,
  description: description ?? null,
  team: of.kind === 'teams' ? of.team : null,
  by: by.kind,
  money: by.kind === 'goal' ? (by.money ?? null) : by.currency,
  goal: by.kind === 'goal' ? by.goal : null,
  ...('endMs' in contest && Number.isFinite(contest.endMs)
    ? { startMs: contest.startMs, endMs: contest.endMs }
    : { startMs: null, endMs: null }),
});

function rankingAsked(
  service: Service,
  id: string,
  at: string | undefined,
  channel: string | undefined,
): { contest: Contest; economy: Economy; view: RankingView } {
  const { economy } = service.sources.live(channel);
  const ranking = economy.rankings.get(id);
  if (!ranking) throw notFound('ranking', id, economy.rankings.keys());
  const contest = rankingContest(economy, ranking, whenAsked(service, economy, ranking, at));
  const { days } = service.retention;
  if (contest.by === 'earned' && contest.endMs < service.now() - days.sums * DAY_MS)
    throw new Problem(
      'bad-request',
      `What was earned in a period is kept for ${countText(days.sums, 'day')} after its end, and this one is over for longer. Ask for a later one.`,
    );
  return { contest, economy, view: rankingView(ranking, contest) };
}

/** Only sums of what was earned are kept by period. */
function whenAsked(service: Service, { zone }: Economy, ranking: Ranking, at: string | undefined): number {
  const nowMs = service.now();
  if (at === undefined || at === 'now') return nowMs;
  if (ranking.by.kind === 'earned') return instantOf(at, zone, nowMs);
  throw new Problem(
    'bad-request',
    `${ranking.name} tells how things stand: earlier periods are kept of amounts earned only. Leave "at" out.`,
  );
}

const CURSOR = /^(\d{1,16}(?:\.\d{1,4})?) (.*)$/;
/** Who stood last on the page before. */
function lastOf(cursor: string): Scored {
  const [, score, who] = CURSOR.exec(cursor) ?? [];
  if (score === undefined || who === undefined)
    throw new Problem('bad-request', 'The cursor is not one that a page ended with. Begin without one.');
  return { who, score: Number(score) };
}

function rows(service: Service, { holder }: Contest, places: readonly Placed[]): PlacedRow[] {
  const names = service.rankingStore.names(
    holder === 'player' ? 'player' : 'team',
    places.map(({ who }) => who),
  );
  return places.map(({ place, who, score }) => ({ place, who, name: names.get(who) ?? who, score }));
}
