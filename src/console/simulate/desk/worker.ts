/**
 * The thread that plays beside the room: the same core as in the service, so that a lever that is moved is answered
 * without a way through the network, and nothing that is only tried is kept anywhere (decision 0032).
 */
import { sensitivity, tune } from '../../../core/balance/index.js';
import { overridesApply, placeWords, valueAt } from '../../../core/document/index.js';
import type { EconomyDocument } from '../../../core/document/index.js';
import { economyCompile } from '../../../core/economy/index.js';
import type { Economy } from '../../../core/economy/index.js';
import { fitPersonas } from '../../../core/fit/index.js';
import { MAX_LOG_LENGTH, logRead, purchasesRead } from '../../../core/log/index.js';
import type { BrokenLine } from '../../../core/log/index.js';
import { benchReport } from '../../../core/report/index.js';
import { replayCsv, replayExamples, replayPurchases } from '../../../core/replay/index.js';
import type { Replayed } from '../../../core/replay/index.js';
import { earningsOf, ladderOf, worthsOf } from '../../../core/playtime/index.js';
import type { PersonaEarnings } from '../../../core/playtime/index.js';
import { leverNow, leversNamed, leversOffered, leversSet } from '../../../core/levers/index.js';
import type { Lever } from '../../../core/levers/index.js';
import {
  activityWays,
  crowdSize,
  payScope,
  wayRows,
  scenarioResolve,
  simulateDays,
  simulationCompare,
  targetsOf,
} from '../../../core/simulation/index.js';
import type { RunSetup, SimulationResult } from '../../../core/simulation/index.js';
import { pointerSegments } from '../../../core/issue/index.js';
import type { Issue, Result } from '../../../core/issue/index.js';
import type { Answer, LeverRead, LogBroken, Order, OrderKind, Orders, PlayAsked, SearchAsked } from './orders.js';

let document: EconomyDocument;
/** The newest run that was asked for: an older one is left. */
let newest = 0;
let newestPrices = 0;
let stopped = false;

const post = (answer: Answer): void => postMessage(answer);

/** What a run is left with when a newer one is asked for. */
class Left extends Error {}

const sentence = (issues: readonly Issue[]): string => issues.map(({ message, fix }) => `${message}. ${fix}`).join(' ');

function must<T>(result: Result<T>): T {
  if (!result.ok) throw new Error(sentence(result.issues));
  return result.value;
}

/** Lets messages in that have come meanwhile; timers would wait for milliseconds each time. */
const turn = new MessageChannel();
const waiting: (() => void)[] = [];
turn.port1.onmessage = () => waiting.shift()?.();
const othersFirst = (): Promise<void> =>
  new Promise((go) => {
    waiting.push(go);
    turn.port2.postMessage(null);
  });

/** The economy as a scenario has it: its own changes are what levers begin from. */
let scene: { of: EconomyDocument; scenario: string; document: EconomyDocument } | undefined;
function sceneOf(scenario: string): EconomyDocument {
  if (scene?.of !== document || scene.scenario !== scenario)
    scene = {
      of: document,
      scenario,
      document: must(overridesApply(document, { ...document.scenarios?.[scenario]?.set })),
    };
  return scene.document;
}

function setOf({ levers, mix, scenario }: PlayAsked): Record<string, unknown> {
  const from = sceneOf(scenario);
  const named = must(
    leversNamed(
      from,
      levers.map(({ spec }) => spec),
    ),
  );
  const set = leversSet(
    from,
    named.map((lever, place) => ({ lever, value: levers[place]!.value })),
  );
  for (const [persona, weight] of Object.entries(mix ?? {})) set[`/scenarios/${scenario}/mix/${persona}`] = weight;
  return set;
}

const optionsOf = ({ days, players, seed }: PlayAsked) => ({
  ...(days === undefined ? {} : { days }),
  ...(players === undefined ? {} : { players }),
  ...(seed === undefined ? {} : { seed }),
});

const setupOf = (asked: PlayAsked): RunSetup =>
  must(scenarioResolve(document, asked.scenario, { ...optionsOf(asked), set: setOf(asked) }));

async function played(
  setup: RunSetup,
  isLeft: () => boolean,
  onDay?: (day: number) => void,
): Promise<SimulationResult> {
  const days = simulateDays(setup);
  for (let day = days.next(); ; day = days.next()) {
    if (day.done) return day.value;
    onDay?.(day.value);
    await othersFirst();
    if (isLeft()) throw new Left();
  }
}

/** What shops ask does not change what is earned: it is worked out anew when something else is another. */
let earned: { key: string; earnings: PersonaEarnings } | undefined;
function earnedBy(economy: Economy, persona: string, startMs: number): PersonaEarnings {
  const { shops: _shops, sales: _sales, cases: _cases, texts: _texts, ...rest } = document;
  const key = JSON.stringify([persona, startMs, rest], (name, value: unknown) =>
    name === 'worth' ? undefined : value,
  );
  if (earned?.key !== key) {
    const result = earningsOf(economy, persona, startMs);
    if (!result.ok) throw new Error(result.problem);
    earned = { key, earnings: result.earnings };
  }
  return { ...earned.earnings, worths: worthsOf(economy) };
}

const PROGRESS_MS = 100;

type Work<K extends OrderKind> = (
  asked: Orders[K]['asked'],
  id: number,
) => Orders[K]['answer'] | Promise<Orders[K]['answer']>;

const WORK: { [K in OrderKind]: Work<K> } = {
  play: (asked, id) => {
    const setup = setupOf(asked);
    let toldMs = performance.now();
    return played(
      setup,
      () => newest !== id,
      (day) => {
        if (performance.now() - toldMs < PROGRESS_MS) return;
        toldMs = performance.now();
        post({ kind: 'progress', id, done: day, of: setup.days });
      },
    );
  },
  levers: ({ scenario, specs }) => {
    const from = sceneOf(scenario);
    return specs.map((spec): LeverRead => {
      const read = leversNamed(from, [spec]);
      if (!read.ok) return { ok: false, spec, why: sentence(read.issues) };
      const lever = read.value[0]!;
      return { ok: true, now: leverNow(from, lever), ...lever, id: spec };
    });
  },
  offered: () => leversOffered(document),
  scenario: (asked) => {
    const setup = setupOf(asked);
    const written = document.scenarios![asked.scenario]!;
    return {
      players: crowdSize(setup),
      days: setup.days,
      seed: setup.seed,
      mix: Object.entries(written.mix).map(([persona, weight]) => ({
        persona,
        name: document.personas?.[persona]?.name ?? persona,
        weight,
      })),
    };
  },
  set: (asked) =>
    Object.entries(setOf(asked)).map(([pointer, after]) => {
      const before = valueAt(document, pointerSegments(pointer));
      return { pointer, words: placeWords(document, pointerSegments(pointer)), before, after };
    }),
  ways: (asked) => {
    const { economy } = setupOf(asked);
    const ways = [...economy.activities.values()].flatMap((activity) =>
      activityWays(economy, activity, payScope(economy)),
    );
    return wayRows(ways, [...economy.currencies.keys()]);
  },
  playtime: async ({ persona, startMs }, id) => {
    // Of edits that follow each other fast only the last is looked at.
    newestPrices = id;
    await othersFirst();
    if (newestPrices !== id) throw new Left();
    const { economy } = economyCompile(document);
    const earnings = earnedBy(economy, persona, startMs);
    return { earnings, ladder: ladderOf(document, economy, earnings) };
  },
  compare: ([first, ...others]) => simulationCompare(first!, others),
  report: ({ runs, against, about }) => benchReport(runs, against, document.targets, about),
  tune: (asked, id) =>
    searching(asked, ({ document: from, levers, targets, players, play }) =>
      tune({
        document: from,
        levers,
        targets,
        players,
        play,
        stopped: () => stopped,
        onProgress: ({ done, of, best }) => post({ kind: 'progress', id, done, of, best }),
      }),
    ),
  sensitivity: (asked, id) =>
    searching(asked, ({ document: from, levers, targets, players, play }) =>
      sensitivity({
        document: from,
        levers,
        targets,
        play,
        players: players.full,
        onProgress: (done, of) => post({ kind: 'progress', id, done, of }),
      }),
    ),
  levels: (track) => economyCompile(document).economy.tracks.get(track)?.levels ?? [],
  replay: async (asked) => {
    const { economy, issues } = economyCompile(document);
    if (issues.length > 0) throw new Error(sentence(issues));
    const isFile = 'log' in asked;
    const { purchases, broken } = isFile
      ? purchasesRead(await logText(asked.log), document)
      : { purchases: asked.recorded, broken: [] };
    if (isFile && broken.length > 0 && !asked.skipBroken) return brokenOf({ broken });
    if (purchases.length === 0)
      throw new Error(
        isFile
          ? 'There is no purchase in it. A purchase has player, at and offer.'
          : 'Nothing was bought from this service yet.',
      );
    const each: Replayed[] = [];
    const result = replayPurchases(economy, purchases, {
      ...(asked.by === undefined ? {} : { by: asked.by }),
      onEach: (one) => each.push(one),
    });
    return {
      kind: 'done',
      result,
      examples: replayExamples(economy, each, isFile ? 'line' : 'purchase'),
      csv: replayCsv(economy, each),
      skipped: broken.length,
    };
  },
  fit: async ({ log, by, groups, skipBroken }, id) => {
    const read = logRead(await logText(log), document);
    if (read.broken.length > 0 && !skipBroken) return brokenOf(read);
    const result = fitPersonas({
      document,
      log: read,
      onProgress: (done, of) => post({ kind: 'progress', id, done, of }),
      ...(by === undefined ? {} : { by }),
      ...(groups === undefined ? {} : { groups }),
    });
    return { kind: 'done', result, skipped: read.broken.length };
  },
};

/** So many broken lines are told one by one. */
const TOLD = 20;
const brokenOf = ({ broken }: { broken: readonly BrokenLine[] }): LogBroken => ({
  kind: 'broken',
  lines: broken.slice(0, TOLD),
  count: broken.length,
});

/** A log's text, unpacked where gzip packed it: as far as it fits into memory. */
async function logText(log: Blob): Promise<string> {
  const start = new Uint8Array(await log.slice(0, 2).arrayBuffer());
  const isPacked = start[0] === 0x1f && start[1] === 0x8b;
  if (!isPacked) return log.text();
  const texts: string[] = [];
  let length = 0;
  const words = log.stream().pipeThrough(new DecompressionStream('gzip')).pipeThrough(new TextDecoderStream());
  try {
    for (const reader = words.getReader(); ;) {
      const { done, value } = await reader.read();
      if (done) return texts.join('');
      texts.push(value);
      length += value.length;
      if (length > MAX_LOG_LENGTH) break;
    }
  } catch {
    throw new Error('It cannot be unpacked: what gzip packed is not whole. Pack it again.');
  }
  throw new Error(`Unpacked it has more than ${MAX_LOG_LENGTH / 1e6} MB. Split it, by days or players.`);
}

interface Search {
  document: EconomyDocument;
  levers: Lever[];
  targets: ReturnType<typeof targetsOf>;
  players: SearchAsked['players'];
  play: (set: Record<string, unknown>, players: number) => Promise<SimulationResult>;
}

/** From where the hand has left the levers: what is set there is the economy of the search. */
function searching<T>(
  { play: asked, levers, targets, players }: SearchAsked,
  work: (search: Search) => Promise<T>,
): Promise<T> {
  stopped = false;
  const moved = must(overridesApply(sceneOf(asked.scenario), setOf(asked)));
  const options = optionsOf(asked);
  const setup = must(scenarioResolve(moved, asked.scenario, options));
  // One after the other: runs that take turns would only keep each other's columns from being at hand.
  let last: Promise<unknown> = Promise.resolve();
  return work({
    document: moved,
    levers: must(leversNamed(moved, levers)),
    targets: targetsOf(setup).filter(({ id }) => targets.includes(id)),
    players,
    play: (set, size) => {
      const next = last.then(() =>
        played(must(scenarioResolve(moved, asked.scenario, { ...options, players: size, set })), () => false),
      );
      last = next.catch(() => undefined);
      return next;
    },
  });
}

async function answer<K extends OrderKind>(kind: K, id: number, asked: Orders[K]['asked']): Promise<void> {
  try {
    post({ kind: 'done', id, answer: await WORK[kind](asked, id) });
  } catch (error) {
    post(error instanceof Left ? { kind: 'left', id } : { kind: 'failed', id, why: (error as Error).message });
  }
}

onmessage = ({ data }: MessageEvent<Order>) => {
  if (data.kind === 'document') ({ document } = data);
  else if (data.kind === 'stop') stopped = true;
  else {
    if (data.kind === 'play') newest = data.id;
    void answer(data.kind, data.id, data.asked as never);
  }
};
