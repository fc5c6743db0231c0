/** Checks a raw value against the economy's schema. */
import type { Result } from '../issue/index.js';
import { economySchema } from './schema.js';
import type { EconomyDocument } from './schema.js';
import { schemaIssues } from '../schema/index.js';

/** Every shape issue at once; linear in the document's size. */
export function documentValidate(raw: unknown): Result<EconomyDocument> {
  const issues = schemaIssues(economySchema, raw);
  return issues.length === 0 ? { ok: true, value: raw as EconomyDocument } : { ok: false, issues };
}
