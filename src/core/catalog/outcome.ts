/** What an edit comes to, and how it says no. */
import type { EconomyDocument, Use } from '../document/index.js';
import type { Issue } from '../issue/index.js';

export type Edited =
  | {
      ok: true;
      document: EconomyDocument;
      /** Things a person should know, such as prices that were left alone because they are formulas. */
      notes: string[];
      /** The pointer of what was made, where something was. */
      made?: string;
    }
  | { ok: false; issues: Issue[]; /** What would dangle. */ uses?: Use[] };

export const refuse = (
  pointer: string,
  message: string,
  fix: string,
  code: Issue['code'] = 'wrong-value',
): { ok: false; issues: Issue[] } => ({ ok: false, issues: [{ code, pointer, message, fix }] });

export const nothingAt = (pointer: string): { ok: false; issues: Issue[] } =>
  refuse(
    pointer,
    `there is nothing at ${pointer || 'the top'}`,
    'Name something that exists, such as /items/storm_frame.',
    'dangling-reference',
  );
