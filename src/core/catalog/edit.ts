/**
 * Edits of a catalog that touch more than one place: removing with what would dangle, duplicating, moving, repricing,
 * volume tiers. Each is a function from a document and a request to the document after it, so any caller can show
 * first what would change.
 */
import type { EconomyDocument } from '../document/index.js';
import { adjust } from './adjust.js';
import type { AdjustEdit } from './adjust.js';
import { duplicate, move } from './arrange.js';
import type { DuplicateEdit, MoveEdit } from './arrange.js';
import { ladder } from './ladder.js';
import type { LadderEdit } from './ladder.js';
import type { Edited } from './outcome.js';
import { put } from './put.js';
import type { PutEdit } from './put.js';
import { remove } from './remove.js';
import type { RemoveEdit } from './remove.js';
import { reprice } from './reprice.js';
import type { RepriceEdit } from './reprice.js';
import { setValue } from './set.js';
import type { SetEdit } from './set.js';
import { tiers } from './tiers.js';
import type { TiersEdit } from './tiers.js';

export type Edit =
  | RemoveEdit
  | DuplicateEdit
  | MoveEdit
  | RepriceEdit
  | LadderEdit
  | TiersEdit
  | SetEdit
  | AdjustEdit
  | PutEdit;

type Run<E> = (document: EconomyDocument, edit: E) => Edited;
const EDITS: { [K in Edit['kind']]: Run<Extract<Edit, { kind: K }>> } = {
  remove,
  duplicate,
  move,
  reprice,
  ladder,
  tiers,
  set: setValue,
  adjust,
  put,
};
export const EDIT_KINDS = Object.keys(EDITS) as Edit['kind'][];

/** The document as it would be; `document` itself stays as it is. */
export function documentEdit(document: EconomyDocument, edit: Edit): Edited {
  return (EDITS[edit.kind] as Run<Edit>)(structuredClone(document), edit);
}
