/**
 * A service under a mixed load of every operation that writes, cut off again and again. What it answered is held against
 * books that are kept here: each answer says what moved, and after each start everybody has exactly the sum of that.
 */
import { setTimeout as delay } from 'node:timers/promises';
import { ApiProblem } from '../../src/client/index.js';
import type { Client } from '../../src/client/index.js';
import type { Key } from '../../src/contract/index.js';
import { integrityCheck } from '../../src/service/index.js';
import { databaseRead } from '../../src/service/store/database.js';
import { Book, DEEDS, Disagreement, LANES, begin, laneOf, refusable, sameAmounts } from './deeds.js';
import type { Amounts, Deed } from './deeds.js';
import type { EconomyDocument } from '../../src/core/document/index.js';
import { demoDocument } from './economy.js';
import { powerCut, powerCutEnvironment } from './powerCut.js';
import { Served } from './served.js';

/** Throws where somebody has anything but what the answers come to, or something is there, or is not, against them. */
async function compare(book: Book, call: Client['call']): Promise<void> {
  for (const [holder, amounts] of book.held) {
    const [kind, id] = holder.split(' ') as [string, string];
    if (kind === 'team') {
      sameAmounts(holder, amounts, (await call('GET /teams/{team}', { params: { team: id } })).holdings);
      continue;
    }
    const { balances, stacks } = await call('GET /players/{player}', { params: { player: id } });
    const found: Amounts = Object.fromEntries(Object.entries(balances).map(([asset, { units }]) => [asset, units]));
    for (const { item, units } of stacks) found[item] = (found[item] ?? 0) + units;
    sameAmounts(holder, amounts, found);
  }
  const there = await thereNow(call, book);
  for (const [name, expected] of book.there)
    if (there.get(name) !== expected)
      throw new Disagreement(`${name} was answered as ${String(expected)}, and is ${String(there.get(name))}`);
}

async function thereNow(call: Client['call'], book: Book): Promise<Map<string, string>> {
  const there = new Map<string, string>();
  for (const { name, role } of (await call('GET /tokens')).items) there.set(`token ${name}`, role);
  for (const { name, type } of (await call('GET /pictures')).items) there.set(`picture ${name}`, type);
  for (const { name } of (await call('GET /channels')).items) there.set(`channel ${name}`, 'there');
  for (const { records } of (await call('GET /rotations')).items)
    for (const { why } of records) there.set(`record ${why}`, 'there');
  for (const { why, revision } of await all(call, 'GET /draft/revisions'))
    for (const name of [`save ${why}`, `revision ${revision}`]) there.set(name, 'saved');
  for (const { note } of await all(call, 'GET /releases')) there.set(`release ${note}`, 'published');
  for (const { name } of await all(call, 'GET /runs')) there.set(`run ${name}`, 'there');
  for (const { id, name } of await all(call, 'GET /teams')) {
    there.set(`team ${id}`, name);
    for (const { player } of (await call('GET /teams/{team}', { params: { team: id } })).members)
      if (book.there.has(`member ${player}`)) there.set(`member ${player}`, id);
  }
  for (const { id } of await all(call, 'GET /players'))
    if (book.there.has(`player ${id}`)) there.set(`player ${id}`, id);
  return there;
}

type Listed = 'GET /draft/revisions' | 'GET /releases' | 'GET /runs' | 'GET /teams' | 'GET /players';
/** What of a row is looked at. */
interface Row {
  id: string;
  name: string;
  note: string;
  why: string;
  revision: number;
}

/** All pages of a list. */
async function all(call: Client['call'], key: Listed): Promise<Row[]> {
  const items: Row[] = [];
  for (let cursor: string | null | undefined; cursor !== null;) {
    const query = { limit: 500, ...(cursor ? { cursor } : {}) };
    const page = (await call(key, { query } as never)) as unknown as { items: Row[]; next: string | null };
    items.push(...page.items);
    cursor = page.next;
  }
  return items;
}

export interface Soaked {
  /** How often each operation was answered well. */
  answered: ReadonlyMap<Key, number>;
  /** Writes that were not on disk when the power went. */
  undone: number;
}

/**
 * Rounds of load that end with the process killed, or the power cut, after a number of answers that differs from round to
 * round. Throws where an answer does not hold.
 */
export async function soak(rounds: number): Promise<Soaked> {
  const served = new Served();
  served.environment = powerCutEnvironment(served.folder.path);
  const book = new Book();
  let undone = 0;
  try {
    await served.start('--work-per-second', '1000000');
    await begin(served.client, book, onlyAnswersMove());
    const pending = new Map<number, Deed>();
    const counts = new Map<number, number>();
    for (let round = 0; round < rounds; round++) {
      let left = 60 + ((round * 37) % 160);
      await Promise.all(
        Array.from({ length: LANES }, (_, lane) =>
          work(served, book, lane, pending, counts, () => {
            if (--left === 0) void served.stop('SIGKILL');
          }),
        ),
      );
      await served.stop('SIGKILL');
      undone += powerCut(served.folder.path);
      await served.start('--work-per-second', '1000000');
      // What nobody was answered is asked again: only then is it known whether it was done.
      for (const deed of pending.values()) await refusable(deed(book));
      pending.clear();
      const call = served.client.call.bind(served.client) as Client['call'];
      await compare(book, call);
      await repeat(book);
      await compare(book, call);
    }
    await served.stop();
    const database = databaseRead(served.data);
    const { faults } = integrityCheck(database);
    database.close();
    if (faults.length > 0) throw new Error(faults.join('\n'));
    return { answered: book.answered, undone };
  } finally {
    await served.end();
  }
}

/** Asks again what was answered since the last time. */
async function repeat(book: Book): Promise<void> {
  for (const { deed, held } of book.repeats) {
    const again = new Book();
    await deed(again);
    for (const [holder, amounts] of held) sameAmounts(`${holder} by a repeat`, amounts, again.held.get(holder) ?? {});
  }
  book.repeats = [];
}

/** One lane does one thing after the other until the service is gone; what was not answered then is left as `pending`. */
async function work(
  served: Served,
  book: Book,
  lane: number,
  pending: Map<number, Deed>,
  counts: Map<number, number>,
  onAnswer: () => void,
): Promise<void> {
  const own = Object.entries(DEEDS).filter(([, { only }]) => only === undefined || only === lane);
  for (;;) {
    const count = counts.get(lane) ?? 0;
    counts.set(lane, count + 1);
    const [key, deed] = own[(count + lane * 7) % own.length]! as [Key, (typeof own)[number][1]];
    const entry = laneOf(lane, `l${lane} n${count}`, served);
    const asked: Deed = (into) => deed.do({ ...entry, book: into });
    const done: Deed = async (into) => {
      const said = new Book();
      await asked(said);
      into.take(key, asked, said);
    };
    pending.set(lane, done);
    try {
      await refusable(done(book));
    } catch (error) {
      if (error instanceof Disagreement || error instanceof ApiProblem) throw error;
      // The connection broke: it must be dying.
      for (let waited = 0; served.runs; waited++) {
        if (waited === 500) throw error;
        await delay(10);
      }
      return;
    }
    pending.delete(lane);
    onAnswer();
  }
}

/** The demo without what moves things beside an answer: goals, levels, what was said of them. */
function onlyAnswersMove(): EconomyDocument {
  const {
    goals: _goals,
    tracks: _tracks,
    rankings: _rankings,
    texts: _texts,
    cases: _cases,
    ...document
  } = demoDocument();
  return document;
}
