export { CONTRACT, KEYS } from './contract.js';
export type {
  ActKey,
  Answer,
  Body,
  Contract,
  EventOf,
  Input,
  Key,
  Params,
  Query,
  SaveKey,
  StreamKey,
} from './contract.js';
export { BODY_KB, PICTURE_KB, PICTURE_NAME, isAside, isMedia, methodOf, pathOf } from './operation.js';
export type { Media, Method, Operation, RawContent, Status } from './operation.js';
export { openApiDocument } from './openapi.js';
export { COMMON_PROBLEMS, PROBLEMS, problemSchemas } from './problem.js';
export type { ProblemBody, ProblemError, ProblemKind, ProblemMore } from './problem.js';
export { calendarPath } from './calendarPath.js';
export { ROLES, ROLE_NAMES, roleMay } from './role.js';
export type { Identity, Role } from './role.js';
export type { TokenView } from './operations/session.js';
export { profile as profileSchema } from './shapes/common.js';
export type { Page } from './shapes/common.js';
export type { PictureRow, ValuesView } from './shapes/catalog.js';
export type { AuditView, ChangesView, DraftSaved, DraftView, EditAnswer, RevisionView } from './shapes/draft.js';
export type { CaseSince, CaseView, CasesView } from './shapes/cases.js';
export { MOST_TRIED } from './shapes/player.js';
export type { EventAnswer, EventOutcome, GrantAnswer, MovementRow, PlayerView, TriedView } from './shapes/player.js';
export type { Rehearsed } from './shapes/rehearsal.js';
export type { RunSetupView, RunMarks, RunStatus, RunView } from './shapes/run.js';
export type {
  CalendarView,
  ChannelView,
  MoveView,
  Published,
  ReleaseView,
  RotationRecordView,
  RotationRequest,
  RotationView,
  StreamEvent,
  StreamType,
} from './shapes/time.js';
export { STREAM_TYPES } from './shapes/time.js';
export type { PlaceView, PlacedRow, PlacesView, RankingView, TeamGranted, TeamRow, TeamView } from './shapes/team.js';
export type { ActAnswer, CheckQuestion, FrontView, PurchaseAnswer, PurchaseRow, ShopView } from './shapes/trade.js';
