/** The audit: every rule in one registry, run over a document that may be half finished. */
import fastJsonPatch from 'fast-json-patch';
import type { Operation } from 'fast-json-patch';
import { economyCompile } from '../economy/index.js';
import type { Compilation } from '../economy/index.js';
import { pointerWords } from '../document/index.js';
import type { EconomyDocument } from '../document/index.js';
import { pointerOf } from '../issue/index.js';
import type { Issue, Place } from '../issue/index.js';
import type { AuditRule, Finding } from './finding.js';
import { obtainableAssets } from './obtainable.js';
import { Probes } from './probes.js';
import {
  leverWithoutEffect,
  targetContradiction,
  targetIncomplete,
  targetNeverDecided,
  targetNeverSeen,
} from './rules/balance.js';
import {
  buybackAtCost,
  buybackPaysNothing,
  earningLoop,
  goalPaysMore,
  moneyLoop,
  moneyLoopByChance,
} from './rules/loops.js';
import { guaranteeWithoutEffect, keyUnobtainable, lootOwnOnce, tableEmpty, weightNotPositive } from './rules/loot.js';
import {
  bundleBelowFloor,
  bundleDearerThanParts,
  endsWithoutConversion,
  freeWithoutLimit,
  neverOnShow,
  priceAfterEnd,
  productMissing,
  stockNeverBinds,
  tierUnitPriceRises,
} from './rules/offer.js';
import { caseContradiction } from './rules/cases.js';
import { goalIncomplete, goalUnreachable, levelCheaper, rewardKeptOut } from './rules/progress.js';
import { givesNothing, noPrice, priceAboveCap, priceFormulaFails, priceUnreachable, zeroPrice } from './rules/price.js';
import {
  currencyWithoutSink,
  currencyWithoutSource,
  itemUnobtainable,
  limitNeverBinds,
  ownOnceNeverBuyable,
  ownOnceStaysBuyable,
  unused,
  useWithoutEnd,
} from './rules/supply.js';
import {
  goalDifferentThings,
  picksAboveEntries,
  priceFailsForSome,
  ruleNeverPays,
  salePartRises,
  shareRoundsToNothing,
  wishNeverSold,
} from './rules/doubts.js';
import {
  descriptionCopied,
  nameTaken,
  nothingWithinADay,
  offerTwice,
  startBuysAll,
  startOutOfScale,
} from './rules/slips.js';
import { goalOfTeams, rankingIncomplete } from './rules/teams.js';
import {
  furtherBelowTable,
  levelFree,
  levelGap,
  trackFeedsItself,
  trackWithoutLevels,
  tracksShareAttribute,
} from './rules/tracks.js';
import {
  missingText,
  missingTranslation,
  pictureMissing,
  requirementUntold,
  textStatesOtherPrice,
} from './rules/text.js';
import {
  localTimeInDoubt,
  rotationEmpty,
  rotationFewSelections,
  rotationShort,
  rotationWeight,
  saleOffShow,
  saleWithoutEffect,
  windowAlways,
  windowNever,
} from './rules/time.js';

/** Every rule, in the order in which its findings are listed within a severity. */
export const AUDIT_RULES: readonly AuditRule[] = [
  noPrice,
  zeroPrice,
  givesNothing,
  priceFormulaFails,
  priceAboveCap,
  priceUnreachable,
  ownOnceNeverBuyable,
  neverOnShow,
  windowNever,
  rotationEmpty,
  tableEmpty,
  keyUnobtainable,
  moneyLoop,
  useWithoutEnd,
  moneyLoopByChance,
  earningLoop,
  freeWithoutLimit,
  buybackAtCost,
  tierUnitPriceRises,
  bundleDearerThanParts,
  bundleBelowFloor,
  textStatesOtherPrice,
  ownOnceStaysBuyable,
  itemUnobtainable,
  currencyWithoutSource,
  currencyWithoutSink,
  priceAfterEnd,
  localTimeInDoubt,
  windowAlways,
  rotationShort,
  priceFailsForSome,
  saleWithoutEffect,
  salePartRises,
  saleOffShow,
  productMissing,
  goalIncomplete,
  goalUnreachable,
  goalPaysMore,
  trackWithoutLevels,
  levelGap,
  levelFree,
  furtherBelowTable,
  levelCheaper,
  trackFeedsItself,
  tracksShareAttribute,
  rewardKeptOut,
  ruleNeverPays,
  picksAboveEntries,
  wishNeverSold,
  goalOfTeams,
  rankingIncomplete,
  targetIncomplete,
  targetContradiction,
  targetNeverSeen,
  targetNeverDecided,
  leverWithoutEffect,
  caseContradiction,
  weightNotPositive,
  pictureMissing,
  goalDifferentThings,
  shareRoundsToNothing,
  limitNeverBinds,
  stockNeverBinds,
  buybackPaysNothing,
  lootOwnOnce,
  guaranteeWithoutEffect,
  endsWithoutConversion,
  rotationFewSelections,
  rotationWeight,
  unused,
  offerTwice,
  nameTaken,
  descriptionCopied,
  startBuysAll,
  nothingWithinADay,
  startOutOfScale,
  missingText,
  requirementUntold,
  missingTranslation,
];

/** What the compiler finds in a draft beside the rules: always errors. */
export const COMPILER_FINDINGS: readonly Pick<AuditRule, 'code' | 'severity' | 'help'>[] = [
  { code: 'dangling-reference', severity: 'error', help: 'An id that names nothing.' },
  { code: 'duplicate-id', severity: 'error', help: 'One id for two things, or one offer id in two shops.' },
  { code: 'malformed-id', severity: 'error', help: 'An id that is not small letters, digits and _.' },
  { code: 'circular-bundle', severity: 'error', help: 'A bundle that holds itself would never finish unpacking.' },
  { code: 'circular-table', severity: 'error', help: 'A loot table that reaches itself would never finish rolling.' },
  { code: 'conflicting-reference', severity: 'error', help: 'Two alternative prices that ask for the same things.' },
];

const ORDER = { error: 0, warning: 1, hint: 2 } as const;

export interface AuditOptions {
  /** The file position of a pointer, for findings of a folder. */
  placeOf?: ((pointer: string) => Place | undefined) | undefined;
  /** Names of the picture files that there are. */
  pictures?: ReadonlySet<string> | undefined;
  /** Of the same document, where it has been compiled already. */
  compilation?: Compilation;
}

/** All findings, errors first. What the compiler could not resolve (a reference to nothing, say) is an error too. */
export function economyAudit(document: EconomyDocument, options: AuditOptions = {}): Finding[] {
  const { placeOf, pictures, compilation = economyCompile(document) } = options;
  const { economy, issues } = compilation;
  const probes = new Probes(economy, document);
  const input = { document, economy, obtainable: obtainableAssets(economy), probes, pictures };
  const found = [
    ...issues.map((issue) => ({ ...issueFinding(issue), subject: pointerWords(issue.pointer, document).subject })),
    ...AUDIT_RULES.flatMap(({ code, severity, find }) => find(input).map((one) => ({ code, severity, ...one }))),
  ];
  const { silenced } = economy.audit;
  const used = new Set<string>();
  const findings = found.map((finding): Finding => {
    const key = `${finding.code} ${finding.pointer}`;
    const why = finding.severity === 'hint' ? silenced.get(key) : undefined;
    if (why !== undefined) used.add(key);
    return why === undefined ? finding : { ...finding, silenced: why };
  });
  return [...findings, ...[...silenced.keys()].filter((key) => !used.has(key)).map(silenceFinding)]
    .sort((a, b) => ORDER[a.severity] - ORDER[b.severity])
    .map((finding) => (placeOf ? { ...finding, place: placeOf(finding.pointer) } : finding));
}

/** Only hints can be silenced, and only while they stand. */
function silenceFinding(key: string): Finding {
  const pointer = pointerOf(['audit', 'silenced', key]);
  return {
    code: 'silence-without-effect',
    severity: 'hint',
    pointer,
    subject: 'audit',
    message: `there is no hint "${key}" to silence`,
    fix: 'Remove it: errors and warnings cannot be silenced, and what was mended needs no silence.',
    mend: { words: 'remove it', operations: [{ op: 'remove', path: pointer }] },
  };
}

/** An issue as a finding of the audit: always an error. */
export function issueFinding(issue: Issue): Finding {
  const { code, pointer, message, fix, place, mend } = issue;
  return {
    code,
    severity: 'error',
    pointer,
    subject: pointer.split('/').slice(1, 3).join(' ') || 'economy',
    message,
    fix,
    ...(place ? { place } : {}),
    ...(mend ? { mend } : {}),
  };
}

/** How many there are of each severity; silenced hints are not counted. */
export interface FindingCounts {
  error: number;
  warning: number;
  hint: number;
}

/** How many findings there are of each severity; silenced ones do not count. */
export function findingCounts(findings: readonly Finding[]): FindingCounts {
  const counts = { error: 0, warning: 0, hint: 0 };
  for (const { severity, silenced } of findings) if (silenced === undefined) counts[severity]++;
  return counts;
}

/**
 * The document with every safe fix applied, one after the other until none is left, and what was done. A fix that
 * changes nothing for its finding is applied once only.
 */
export function documentMend(document: EconomyDocument): { document: EconomyDocument; mended: string[] } {
  const taken = new Set<string>();
  const mended: string[] = [];
  let current = document;
  for (;;) {
    const finding = economyAudit(current).find(
      ({ mend, code, pointer, silenced }) => mend && silenced === undefined && !taken.has(`${code} ${pointer}`),
    );
    if (!finding) return { document: current, mended };
    taken.add(`${finding.code} ${finding.pointer}`);
    mended.push(`${finding.code}: ${finding.subject}: ${finding.mend!.words}`);
    current = fastJsonPatch.applyPatch(structuredClone(current), finding.mend!.operations as Operation[]).newDocument;
  }
}
