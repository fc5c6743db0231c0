/** Cases as they are written, and as they are played. */
import { unitsParse } from '../amount/index.js';
import { ALLOWED } from '../document/index.js';
import type { BoundDocument, CaseDocument } from '../document/index.js';
import type { Economy } from '../economy/index.js';
import { nearestName, pointerOf } from '../issue/index.js';
import { attributeProblems } from '../player/index.js';
import type { Profile } from '../player/index.js';
import { NOT_POSSIBLE, basketRead, stepsRead, untilRead } from '../rehearsal/index.js';
import type { WrittenStep } from '../rehearsal/index.js';
import { REASON_CODES } from '../trade/index.js';
import type { Bound, Case, CaseProblem, Expectation } from './types.js';

type StepDocument = NonNullable<CaseDocument['steps']>[number];
type ExpectDocument = NonNullable<StepDocument['expect']>;
type StandingDocument = NonNullable<CaseDocument['expect']>;

const CODES: readonly string[] = [...REASON_CODES, NOT_POSSIBLE];

/** Why it cannot be played stands in `problems`, all of it; then there is no case. */
export function caseRead(
  economy: Economy,
  id: string,
  written: CaseDocument,
): { case: Case } | { problems: CaseProblem[] } {
  const problems: CaseProblem[] = [];
  const wrong = (path: readonly string[], message: string, fix: string): void => {
    problems.push({ pointer: pointerOf(['cases', id, ...path]), message, fix });
  };
  const atMs = untilRead(economy.zone, written.at);
  if (typeof atMs === 'string') wrong(['at'], atMs, 'Write it as 2027-03-01T09:00.');
  const profile = profileRead(economy, written, wrong);
  const documents = written.steps ?? [];
  const read = stepsRead(economy, documents.map(stepAlone), 'written');
  if (!read.ok) for (const { step, message, fix } of read.problems) wrong(['steps', String(step)], message, fix);
  const expects = [
    written.expect && expectationRead(economy, written.expect, ['expect'], wrong),
    ...documents.map(({ expect }, step) =>
      expect ? expectationRead(economy, expect, ['steps', String(step), 'expect'], wrong) : undefined,
    ),
  ];
  if (expects.every((one) => one === undefined || Object.keys(one).length === 0))
    wrong([], 'nothing must hold', 'Write what must hold under expect: of a step, or of the case.');
  if (problems.length > 0 || typeof atMs === 'string' || !read.ok) return { problems };
  const { name, seed = economy.seed } = written;
  return { case: { id, name, atMs, seed, profile, steps: read.steps, expects } };
}

const stepAlone = ({ expect: _, ...step }: StepDocument): WrittenStep => step as WrittenStep;

type Wrong = (path: readonly string[], message: string, fix: string) => void;

function profileRead(economy: Economy, { player = {} }: CaseDocument, wrong: Wrong): Profile {
  const attributes = (player.attributes ?? {}) as NonNullable<Profile['attributes']>;
  for (const { attribute, message, fix } of attributeProblems(economy, attributes))
    wrong(['player', 'attributes', attribute], message, fix);
  const holds = player.holds ?? {};
  for (const id of Object.keys(holds)) assetKnown(economy, id, ['player', 'holds', id], wrong);
  const read = basketRead(economy, holds);
  if ('message' in read) wrong(['player', 'holds'], read.message, read.fix);
  return { attributes, holds: 'units' in read ? read.units : {} };
}

function named(what: string, id: string, known: ReadonlyMap<string, unknown>, path: readonly string[], wrong: Wrong) {
  if (known.has(id)) return;
  const near = nearestName(id, [...known.keys()]);
  wrong(path, `there is no ${what} "${id}"`, near ? `Did you mean "${near}"?` : 'Name one that exists.');
}

const assetKnown = (economy: Economy, id: string, path: readonly string[], wrong: Wrong): void => {
  if (!economy.currencies.has(id)) named('currency or item', id, economy.items, path, wrong);
};

/** Amounts in bounds are as people write them, in decimals of the asset. */
function boundsRead(
  written: Readonly<Record<string, BoundDocument>>,
  decimalsOf: (id: string) => number,
  path: readonly string[],
  wrong: Wrong,
): Record<string, Bound> {
  return Object.fromEntries(
    Object.entries(written).map(([id, bound]) => {
      const { from = 0, to = Infinity } = typeof bound === 'number' ? { from: bound, to: bound } : bound;
      const [least, most] = [from, to].map((one) => {
        if (one === Infinity) return Infinity;
        const read = unitsParse(one, decimalsOf(id));
        if (!read.ok) wrong([...path, id], read.message, read.fix);
        return read.ok ? read.units : 0;
      });
      return [id, { from: least!, to: most! }];
    }),
  );
}

function expectationRead(
  economy: Economy,
  { verdict, price, says, ...written }: ExpectDocument & StandingDocument,
  path: readonly string[],
  wrong: Wrong,
): Expectation {
  const amounts = (bounds: Readonly<Record<string, BoundDocument>>, field: string): Record<string, Bound> => {
    for (const id of Object.keys(bounds)) assetKnown(economy, id, [...path, field, id], wrong);
    const decimals = (id: string): number => economy.currencies.get(id)?.decimals ?? 0;
    return boundsRead(bounds, decimals, [...path, field], wrong);
  };
  const { holds, attributes, levels, goals, shows, hides } = written;
  for (const code of Array.isArray(verdict) ? verdict : [])
    if (!CODES.includes(code)) {
      const near = nearestName(code, [...CODES]);
      const fix = near ? `Did you mean "${near}"?` : `Reasons: ${CODES.join(', ')}.`;
      wrong([...path, 'verdict'], `nothing is ever refused for "${code}"`, fix);
    }
  for (const { attribute, message, fix } of attributeProblems(economy, attributes ?? {}))
    wrong([...path, 'attributes', attribute], message, fix);
  for (const id of Object.keys(levels ?? {})) named('track', id, economy.tracks, [...path, 'levels', id], wrong);
  for (const id of Object.keys(goals ?? {})) named('goal', id, economy.goals, [...path, 'goals', id], wrong);
  for (const [field, ids] of Object.entries({ shows, hides }))
    for (const id of ids ?? []) named('offer', id, economy.offers, [...path, field], wrong);
  for (const id of (shows ?? []).filter((one) => hides?.includes(one)))
    wrong([...path, 'hides'], `"${id}" is to be on show and not to be`, 'Leave it in one of both.');
  return {
    ...(verdict === undefined ? {} : { verdict: verdict === ALLOWED ? [] : verdict }),
    ...(price === undefined ? {} : { price: amounts(price, 'price') }),
    ...(holds === undefined ? {} : { holds: amounts(holds, 'holds') }),
    ...(attributes === undefined ? {} : { attributes }),
    ...(levels === undefined ? {} : { levels: boundsRead(levels, () => 0, [...path, 'levels'], wrong) }),
    ...(goals === undefined ? {} : { goals }),
    ...(shows === undefined ? {} : { shows }),
    ...(hides === undefined ? {} : { hides }),
    ...(says === undefined ? {} : { says }),
  };
}
