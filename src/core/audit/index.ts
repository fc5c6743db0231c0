export { AUDIT_RULES, COMPILER_FINDINGS, documentMend, economyAudit, findingCounts, issueFinding } from './audit.js';
export type { FindingCounts } from './audit.js';
export type { Finding, Severity } from './finding.js';
