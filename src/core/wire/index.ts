/**
 * What the service and its client exchange, as types only: written once, used on both sides of the wire.
 * Amounts are integers of smallest units, instants epoch milliseconds.
 */
import type { Operation } from 'fast-json-patch';
import type { Finding, FindingCounts } from '../audit/index.js';
import type { Basket } from '../amount/index.js';
import type { Edit, FormulaValue } from '../catalog/index.js';
import type { Change, EconomyDocument, Use } from '../document/index.js';
import type { Calendar } from '../calendar/index.js';
import type { RuleOutcome } from '../earning/index.js';
import type { Value } from '../formula/index.js';
import type { Player, Profile } from '../player/index.js';
import type { ScenarioOptions } from '../simulation/index.js';
import type { Front, OfferTold } from '../storefront/index.js';
import type { ActVerdict, PurchaseRequest } from '../trade/index.js';
import type { Explained, ExplainedVerdict } from '../texts/index.js';

/** A page of a list. Pass `next` as `cursor` for the rest; null at the end. */
export interface Page<T> {
  items: T[];
  next: string | null;
}

export type RoleName = 'read' | 'game' | 'design' | 'publish' | 'support' | 'admin';
export interface Identity {
  name: string;
  role: RoleName;
}

export interface DraftView {
  revision: number;
  savedMs: number;
  savedBy: string;
  document: EconomyDocument;
}
export interface DraftSaved {
  revision: number;
  savedMs: number;
  savedBy: string;
  findings: FindingCounts;
}
export interface AuditView {
  revision: number;
  counts: FindingCounts;
  findings: Finding[];
}
export interface ChangesView {
  revision: number;
  against: string;
  changes: Change[];
  patch: object[];
}
/** What an edit or an import does: saved (`revision`), or only shown. */
export interface EditAnswer {
  saved: DraftSaved | null;
  changes: Change[];
  notes: string[];
  made: string | null;
  /** RFC 6902, there and back. */
  operations: Operation[];
  undo: Operation[];
}
export type { Edit, Use };
export interface ValuesView {
  revision: number;
  values: FormulaValue[];
}
export interface PictureRow {
  name: string;
  type: string;
  hash: string;
  savedMs: number;
  savedBy: string;
}
export interface OddsQuestion {
  /** A loot table or a box. */
  id: string;
  source?: string;
  player?: string;
  profile?: Profile;
  /** JSON pointers into the economy and the values to look at instead, such as weights that are being edited. */
  set?: Record<string, unknown>;
}

export interface RevisionView {
  revision: number;
  savedMs: number;
  savedBy: string;
  why: string;
}

export interface ReleaseView {
  number: number;
  note: string;
  draftRevision: number;
  publishedMs: number;
  publishedBy: string;
}
export interface ReleaseFull extends ReleaseView {
  document: EconomyDocument;
  changes: Change[];
}
export interface Published {
  number: number;
  note: string;
  channel: string;
  publishedMs: number;
  /** From when on the channel points at it: now, or the set time. */
  fromMs: number;
  scheduled: boolean;
  /** What is scheduled on the channel and will replace it. */
  coming: MoveView[];
}
/** A channel being pointed at a release, at once or from a set time. */
export interface MoveView {
  move: number;
  release: number;
  atMs: number;
  scheduled: boolean;
  note: string;
  madeMs: number;
  madeBy: string;
  /** When it was taken back, or its channel deleted. */
  endedMs: number | null;
  endedBy: string | null;
}
export interface ChannelView {
  name: string;
  /** null where nothing has come yet. */
  release: number | null;
  changedMs: number | null;
  changedBy: string | null;
  /** Scheduled, soonest first. */
  coming: MoveView[];
}
/** An offer pinned into a period of a rotation, or taken out of it. */
export interface RotationRecordView {
  id: number;
  shelf: string;
  period: number;
  kind: 'pin' | 'without';
  offer: string;
  why: string;
  madeMs: number;
  madeBy: string;
}
export interface RotationView {
  shop: string;
  shelf: string;
  name: string;
  period: number;
  startMs: number;
  endMs: number;
  shown: { id: string; name: string; pinned: boolean }[];
  pool: { id: string; name: string }[];
  records: RotationRecordView[];
}
/** CloudEvents 1.0, as /stream sends them. */
export interface StreamEvent {
  specversion: '1.0';
  id: string;
  source: string;
  type: string;
  subject: string;
  time: string;
  datacontenttype: 'application/json';
  data: Record<string, unknown>;
}
export type CalendarView = Calendar & { release: number | null };
export interface RevisionFull extends RevisionView {
  changes: Change[];
}

export type { Profile };
export type CheckQuestion = PurchaseRequest & { player?: string; profile?: Profile; at?: string };
export interface ChecksView {
  release: number | null;
  verdicts: (ExplainedVerdict & { told?: Pick<OfferTold, 'ask' | 'refusals'> })[];
}
export type FrontView = Front & { release: number | null };
export interface ShopView {
  id: string;
  name: string;
  hidden: boolean;
  offers: number;
}

export interface PurchaseAnswer {
  purchase: number;
  release: number;
  verdict: ExplainedVerdict;
}
export interface ActAnswer {
  /** 0 where it was refused. */
  act: number;
  release: number;
  verdict: Explained<ActVerdict>;
  /** What came in the end; of an opening this holds what was drawn. */
  given: Basket;
  dropped: Basket;
  set: Record<string, Value>;
}
export interface EventAnswer {
  id: string;
  name: string;
  repeated: boolean;
  outcomes: RuleOutcome[];
}
export interface GrantAnswer {
  grant: number;
  given: Basket;
  taken: Basket;
  dropped: Basket;
  missed: Basket;
}

export interface PlayerRow {
  id: string;
  name: string;
  startedMs: number;
}
export type PlayerView = Player & { atMs: number; release: number };
export interface MovementRow {
  id: number;
  player: string;
  asset: string;
  units: number;
  fromAccount: string;
  toAccount: string;
  cause: string;
  release: number;
  atMs: number;
}

export type RunStatus = 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';
export interface RunSetupView {
  scenario: string;
  source: string;
  options: ScenarioOptions;
}
export interface RunView {
  id: number;
  name: string;
  status: RunStatus;
  day: number;
  days: number;
  createdMs: number;
  createdBy: string;
  error: string | null;
  setup: RunSetupView;
}

/** RFC 9457 problem details, with every problem of the request at once. */
export interface ProblemBody {
  type: string;
  title: string;
  status: number;
  detail: string;
  errors?: { pointer: string; code: string; detail: string; fix: string }[];
  [extra: string]: unknown;
}
