/**
 * Turns a checked document into what the engine works with: amounts in smallest units, formulas compiled,
 * instants as milliseconds, references resolved.
 */
import { danglingReferences, renameMend } from '../document/index.js';
import type { Dangling, EconomyDocument } from '../document/index.js';
import { pointerOf } from '../issue/index.js';
import type { Issue } from '../issue/index.js';
import { assetsCompile } from './compileAssets.js';
import { lootCompile } from './compileLoot.js';
import { earningCompile } from './compileEarning.js';
import { playCompile } from './compilePlay.js';
import { goalsCompile, tracksCompile } from './compileProgress.js';
import { rankingsCompile, teamKindsCompile } from './compileTeams.js';
import { shopCompile } from './compileShops.js';
import { targetsCompile } from './compileTargets.js';
import { textsCompile } from './compileTexts.js';
import { salesCompile } from './compileTime.js';
import { DocumentReader } from './reader.js';
import type { Steps } from './reader.js';
import { itemYields } from './types.js';
import type { Economy, Offer, Shop } from './types.js';

/** An economy, and everything that stands against the document that it was compiled from. */
export interface Compilation {
  economy: Economy;
  issues: Issue[];
}

/** Compiles everything at once. `economy` is complete where no issue stands against a part; publishing needs no issues at all. */
export function economyCompile(document: EconomyDocument): Compilation {
  const reader = new DocumentReader(document);
  // What is only said of a thing that is gone does no harm: the audit tells of silence without effect.
  reader.dangling = danglingReferences(document);
  for (const dangling of reader.dangling) if (!dangling.aside) reader.issues.push(danglingIssue(document, dangling));
  const steps = compiling(reader);
  let step = steps.next();
  while (!step.done) step = steps.next();
  return { economy: step.value, issues: reader.issues };
}

/** The economy of a document against which nothing stands, in small steps: for who has others to serve meanwhile. */
export const economyCompileSteps = (document: EconomyDocument): Steps<Economy> =>
  compiling(new DocumentReader(document));

function* compiling(reader: DocumentReader): Steps<Economy> {
  const { document } = reader;
  yield* assetsCompile(reader);
  const loot = lootCompile(reader);
  const stores = new Map(
    Object.entries(document.stores ?? {}).map(([id, { name, fee = 0, rounding = 'up', tax = 0 }]) => [
      id,
      { id, name, fee, rounding, tax },
    ]),
  );
  yield;
  const shops = new Map<string, Shop>();
  for (const [id, shop] of Object.entries(document.shops ?? {})) shops.set(id, yield* shopCompile(reader, id, shop));
  const offers = offersById(reader, shops.values());
  const sales = yield* salesCompile(reader, offers.values());
  const earning = earningCompile(reader);
  yield;
  const texts = yield* textsCompile(reader);
  const goals = goalsCompile(reader, offers);
  return {
    name: document.name,
    zone: document.timeZone,
    seed: document.seed ?? 1,
    attributes: new Map(Object.entries(document.attributes ?? {}).map(([id, { start }]) => [id, start])),
    currencies: reader.currencies,
    items: reader.items,
    loot,
    stores,
    sales,
    texts,
    rotationRecords: new Map(),
    timedItems: [...reader.items.values()].filter((item) => item.kind === 'timed'),
    endingCurrencies: [...reader.currencies.values()].filter(({ ends }) => ends !== undefined),
    yieldingItems: [...reader.items.values()].filter(
      (item): item is Economy['yieldingItems'][number] => itemYields(item) !== undefined,
    ),
    shops,
    offers,
    earning,
    earningByEvent: groupBy(earning.values(), (rule) => rule.on),
    ...goals,
    tracks: tracksCompile(reader),
    teamKinds: teamKindsCompile(document),
    rankings: rankingsCompile(reader, goals),
    ...playCompile(reader),
    targets: targetsCompile(reader),
    formulas: reader.formulas,
    audit: {
      bundleFloor: document.audit?.bundleFloor,
      earningFactor: document.audit?.earningFactor,
      silenced: new Map(Object.entries(document.audit?.silenced ?? {})),
    },
  };
}

function danglingIssue(document: EconomyDocument, dangling: Dangling): Issue {
  const { kind, word, id, nearest, path } = dangling;
  const mend = renameMend(document, dangling);
  if (kind === 'place')
    return {
      code: 'dangling-reference',
      pointer: pointerOf(path),
      message: `the override ${id} leads to nothing`,
      fix: nearest === undefined ? 'Write a pointer to a value that the economy has.' : `Did you mean "${nearest}"?`,
      ...(mend ? { mend } : {}),
    };
  const create = `Create ${kind === 'asset' ? 'it' : `the ${word}`}, or name one that exists.`;
  return {
    code: 'dangling-reference',
    pointer: pointerOf(path),
    message: `there is no ${word} "${id}"`,
    fix: nearest === undefined ? create : `Did you mean "${nearest}"?`,
    ...(mend ? { mend } : {}),
  };
}

/** Issues that a draft may hold, as findings of its audit; the others make a document unreadable, so they refuse the save. */
const DRAFT_MAY_HOLD: readonly Issue['code'][] = [
  'dangling-reference',
  'circular-bundle',
  'circular-table',
  'conflicting-reference',
];

/** Whether a draft with this issue is refused; what may wait until it is published does not block. */
export const issueBlocksSaving = (issue: Issue): boolean => !DRAFT_MAY_HOLD.includes(issue.code);

function offersById(reader: DocumentReader, shops: Iterable<Shop>): Map<string, Offer> {
  const offers = new Map<string, Offer>();
  for (const offer of [...shops].flatMap(({ shelves }) => shelves.flatMap((shelf) => shelf.offers))) {
    const first = offers.get(offer.id);
    if (first) {
      reader.issue(
        'duplicate-id',
        offer.pointer,
        `the offer "${offer.id}" already stands in ${first.shop.name}, shelf ${first.shelf.name}`,
        'Give one of them another id: offer ids are unique in the whole economy.',
      );
    } else offers.set(offer.id, offer);
  }
  return offers;
}

function groupBy<T>(values: Iterable<T>, keyOf: (value: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const value of values) {
    const group = groups.get(keyOf(value));
    if (group) group.push(value);
    else groups.set(keyOf(value), [value]);
  }
  return groups;
}
