/** How an edit says no. */
import type { Issue } from '../issue/index.js';

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
