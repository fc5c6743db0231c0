/** The audit: every rule in one registry, run over a document that may be half finished. */
import { economyCompile } from '../economy/index.js';
import type { EconomyDocument } from '../economy/index.js';
import type { Issue, Place } from '../issue/index.js';
import type { AuditRule, Finding } from './finding.js';
import { obtainableAssets } from './obtainable.js';
import { noPrice, priceAboveCap, priceFormulaFails, priceUnreachable, zeroPrice } from './rules/price.js';
import {
  currencyWithoutSink,
  currencyWithoutSource,
  itemUnobtainable,
  limitNeverBinds,
  ownOnceNeverBuyable,
  ownOnceStaysBuyable,
} from './rules/supply.js';
import { missingText, textStatesOtherPrice } from './rules/text.js';

/** Every rule, in the order in which its findings are listed within a severity. */
export const AUDIT_RULES: readonly AuditRule[] = [
  noPrice,
  zeroPrice,
  priceFormulaFails,
  priceAboveCap,
  priceUnreachable,
  ownOnceNeverBuyable,
  textStatesOtherPrice,
  ownOnceStaysBuyable,
  itemUnobtainable,
  currencyWithoutSource,
  currencyWithoutSink,
  limitNeverBinds,
  missingText,
];

const ORDER = { error: 0, warning: 1, hint: 2 } as const;

/** All findings, errors first. What the compiler could not resolve (a reference to nothing, say) is an error too. */
export function economyAudit(document: EconomyDocument, placeOf?: (pointer: string) => Place | undefined): Finding[] {
  const { economy, issues } = economyCompile(document);
  const input = { document, economy, obtainable: obtainableAssets(economy) };
  const findings = [
    ...issues.map(issueFinding),
    ...AUDIT_RULES.flatMap(({ code, severity, find }) => find(input).map((found) => ({ code, severity, ...found }))),
  ];
  return findings
    .sort((a, b) => ORDER[a.severity] - ORDER[b.severity])
    .map((finding) => (placeOf ? { ...finding, place: placeOf(finding.pointer) } : finding));
}

/** An issue as a finding of the audit: always an error. */
export function issueFinding(issue: Issue): Finding {
  const { code, pointer, message, fix, place } = issue;
  return {
    code,
    severity: 'error',
    pointer,
    subject: pointer.split('/').slice(1, 3).join(' ') || 'economy',
    message,
    fix,
    ...(place ? { place } : {}),
  };
}

export interface FindingCounts {
  error: number;
  warning: number;
  hint: number;
}

export function findingCounts(findings: readonly Finding[]): FindingCounts {
  const counts = { error: 0, warning: 0, hint: 0 };
  for (const { severity } of findings) counts[severity]++;
  return counts;
}
