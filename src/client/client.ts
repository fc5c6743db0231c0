/** The typed HTTP client: what the CLI, the console, the tests and a game back end call. */
import { createParser } from 'eventsource-parser';
import type { Basket } from '../core/amount/index.js';
import type { EconomyDocument, ThingKind, Use } from '../core/document/index.js';
import type { SourceFile } from '../core/files/index.js';
import type { Comparison, ScenarioOptions, SimulationResult } from '../core/simulation/index.js';
import type { AssetFlow, Edit, MoneyRow, SheetName } from '../core/catalog/index.js';
import type { LootOdds } from '../core/loot/index.js';
import type { ActRequest, PurchaseRequest } from '../core/trade/index.js';
import type {
  ActAnswer,
  AuditView,
  CalendarView,
  ChangesView,
  ChannelView,
  CheckQuestion,
  ChecksView,
  DraftSaved,
  DraftView,
  EditAnswer,
  EventAnswer,
  FrontView,
  GrantAnswer,
  Identity,
  MoveView,
  MovementRow,
  OddsQuestion,
  Page,
  PictureRow,
  PlayerRow,
  PlayerView,
  ProblemBody,
  Published,
  PurchaseAnswer,
  ReleaseFull,
  ReleaseView,
  RevisionFull,
  RevisionView,
  RoleName,
  RotationView,
  RunView,
  ShopView,
  StreamEvent,
  ValuesView,
} from '../core/wire/index.js';
import type { Profile } from '../core/player/index.js';

/** The service answered with problem details. */
export class ApiProblem extends Error {
  constructor(readonly body: ProblemBody) {
    super(body.detail);
  }
  get status(): number {
    return this.body.status;
  }
  /** The stable part of `type`, such as `purchase-refused`. */
  get kind(): string {
    return this.body.type.replace(/^urn:dimestall:/, '');
  }
}

/** The service could not be reached at all. */
export class Unreachable extends Error {}

export interface ClientOptions {
  /** Such as `http://127.0.0.1:4780`; empty for the page's own origin. */
  url: string;
  token?: string;
  /** Sent with every request; the console marks its own this way. */
  headers?: Record<string, string>;
  fetch?: typeof fetch;
}

export interface PageQuery {
  cursor?: string;
  limit?: number;
}
export interface FrontQuery {
  player?: string;
  profile?: Profile;
  at?: string;
  source?: string;
  /** Names, prices, the question and the refusals in the words of a language. */
  language?: string;
}
/** A stretch of the calendar; instants as ISO 8601. */
export interface CalendarQuery {
  from?: string;
  to?: string;
  shop?: string;
  player?: string;
  source?: string;
}
/** What is recorded of a period of a rotation: one of `pin`, `without`, `redraw`. */
export interface RotationChange {
  at?: string;
  period?: number;
  pin?: string;
  without?: string;
  redraw?: boolean;
  why?: string;
}
export interface ReportedEvent {
  id: string;
  name: string;
  fields?: Record<string, number | string>;
}

/** What may be sent as it is. */
export type RawContent = string | Blob | ArrayBuffer;

interface Call {
  query?: Record<string, string | number | undefined>;
  body?: unknown;
  /** Sent as it is, instead of JSON. */
  raw?: { type: string; content: RawContent };
  headers?: Record<string, string>;
}

export class Client {
  constructor(private readonly options: ClientOptions) {}

  // --- draft

  draft(): Promise<DraftView> {
    return this.call('GET', '/draft');
  }
  saveDraft(document: EconomyDocument, revision: number, why?: string): Promise<DraftSaved> {
    return this.call('PUT', '/draft', { query: { why }, body: document, headers: ifMatch(revision) });
  }
  /** `operations` are RFC 6902. */
  patchDraft(operations: readonly object[], revision: number, why?: string): Promise<DraftSaved> {
    return this.call('PATCH', '/draft', {
      query: { why },
      body: operations,
      headers: { ...ifMatch(revision), 'Content-Type': 'application/json-patch+json' },
    });
  }
  importDraft(files: readonly SourceFile[], revision: number): Promise<DraftSaved> {
    return this.call('POST', '/draft/import', { body: { files }, headers: ifMatch(revision) });
  }
  exportDraft(): Promise<{ files: SourceFile[] }> {
    return this.call('GET', '/draft/export');
  }
  audit(): Promise<AuditView> {
    return this.call('GET', '/draft/audit');
  }
  /** `at` is when a release is meant to come: the words then say so. */
  changes(against?: string, at?: string): Promise<ChangesView> {
    return this.call('GET', '/draft/changes', { query: { against, at } });
  }
  revisions(page: PageQuery = {}): Promise<Page<RevisionView>> {
    return this.call('GET', '/draft/revisions', { query: { ...page } });
  }
  revision(revision: number): Promise<RevisionFull> {
    return this.call('GET', `/draft/revisions/${revision}`);
  }
  /** Saves an earlier revision anew. */
  undoTo(to: number, revision: number): Promise<DraftSaved> {
    return this.call('POST', '/draft/undo', { body: { to }, headers: ifMatch(revision) });
  }

  // --- catalog

  /** `revision` is the one you started from; none shows what would change, and saves nothing. */
  edit(edit: Edit, revision?: number): Promise<EditAnswer> {
    return this.call('POST', '/draft/edits', { body: edit, ...savedFrom(revision) });
  }
  async sheet(name: SheetName): Promise<string> {
    return (await this.request('GET', `/draft/sheets/${name}`, {})).text();
  }
  importSheet(name: SheetName, csv: string, revision?: number): Promise<EditAnswer> {
    return this.call('POST', `/draft/sheets/${name}`, {
      raw: { type: 'text/csv', content: csv },
      ...savedFrom(revision),
    });
  }
  uses(kind: ThingKind, id: string): Promise<Page<Use>> {
    return this.call('GET', `/draft/uses/${kind}/${encodeURIComponent(id)}`);
  }
  flow(id: string, source?: string): Promise<AssetFlow> {
    return this.call('GET', `/flows/${encodeURIComponent(id)}`, { query: { source } });
  }
  /** Real-money prices, gross and net. */
  money(source?: string): Promise<Page<MoneyRow>> {
    return this.call('GET', '/money', { query: { source } });
  }
  values({ player, profile }: { player?: string; profile?: Profile }): Promise<ValuesView> {
    return this.call('GET', '/draft/values', { query: { player, profile: profile && JSON.stringify(profile) } });
  }
  odds(question: OddsQuestion): Promise<LootOdds> {
    return this.call('POST', '/odds', { body: question });
  }
  pictures(): Promise<Page<PictureRow>> {
    return this.call('GET', '/pictures');
  }
  async picture(name: string): Promise<ArrayBuffer> {
    return (await this.request('GET', `/pictures/${encodeURIComponent(name)}`, {})).arrayBuffer();
  }
  savePicture(name: string, type: string, content: RawContent): Promise<{ name: string; type: string; hash: string }> {
    return this.call('PUT', `/pictures/${encodeURIComponent(name)}`, { raw: { type, content } });
  }
  removePicture(name: string): Promise<undefined> {
    return this.call('DELETE', `/pictures/${encodeURIComponent(name)}`);
  }

  // --- releases

  publish(note: string, options: { channel?: string; revision?: number; at?: string } = {}): Promise<Published> {
    return this.call('POST', '/releases', { body: { note, ...options } });
  }
  releases(page: PageQuery = {}): Promise<Page<ReleaseView>> {
    return this.call('GET', '/releases', { query: { ...page } });
  }
  release(number: number): Promise<ReleaseFull> {
    return this.call('GET', `/releases/${number}`);
  }
  channels(): Promise<Page<ChannelView>> {
    return this.call('GET', '/channels');
  }
  /** At once, or from a set time. */
  pointChannel(name: string, release: number, options: { at?: string; note?: string } = {}): Promise<ChannelView> {
    return this.call('PUT', `/channels/${encodeURIComponent(name)}`, { body: { release, ...options } });
  }
  channelMoves(name: string): Promise<Page<MoveView>> {
    return this.call('GET', `/channels/${encodeURIComponent(name)}/moves`);
  }
  /** Takes back what is scheduled. */
  cancelMove(name: string, move: number): Promise<MoveView> {
    return this.call('DELETE', `/channels/${encodeURIComponent(name)}/moves/${move}`);
  }
  deleteChannel(name: string, anyway = false): Promise<{ deleted: string }> {
    return this.call('DELETE', `/channels/${encodeURIComponent(name)}`, { query: { anyway: String(anyway) } });
  }

  // --- time

  calendar(query: CalendarQuery): Promise<CalendarView> {
    return this.call('GET', '/calendar', { query: { ...query } });
  }
  async calendarIcs(query: CalendarQuery): Promise<string> {
    return (await this.request('GET', '/calendar.ics', { query: { ...query } })).text();
  }
  rotations(query: { at?: string; player?: string; source?: string } = {}): Promise<Page<RotationView>> {
    return this.call('GET', '/rotations', { query });
  }
  recordRotation(shop: string, shelf: string, change: RotationChange, source?: string): Promise<RotationView> {
    return this.call('POST', `/rotations/${encodeURIComponent(shop)}/${encodeURIComponent(shelf)}/records`, {
      body: change,
      query: { source },
    });
  }
  endRotationRecord(id: number): Promise<{ ended: number }> {
    return this.call('DELETE', `/rotations/records/${id}`);
  }
  /** Calls `onEvent` with everything that happens, until `signal` says stop. */
  async listen(onEvent: (event: StreamEvent) => void, signal: AbortSignal, onOpen?: () => void): Promise<void> {
    const response = await this.request('GET', '/stream', { headers: { Accept: 'text/event-stream' } }, signal);
    onOpen?.();
    await streamRead(response, (data) => onEvent(JSON.parse(data) as StreamEvent));
  }

  // --- trade

  shops(source?: string): Promise<Page<ShopView>> {
    return this.call('GET', '/shops', { query: { source } });
  }
  front(shop: string, { profile, ...query }: FrontQuery): Promise<FrontView> {
    return this.call('GET', `/shops/${encodeURIComponent(shop)}/front`, {
      query: { ...query, profile: profile && JSON.stringify(profile) },
    });
  }
  checks(checks: readonly CheckQuestion[], source?: string, language?: string): Promise<ChecksView> {
    return this.call('POST', '/checks', { body: { source, checks, language } });
  }
  /** `key` makes the purchase happen once: repeat with the same key when no answer came. */
  buy(player: string, request: PurchaseRequest, key: string): Promise<PurchaseAnswer> {
    return this.call('POST', '/purchases', { body: { player, ...request }, headers: { 'Idempotency-Key': key } });
  }

  /** Sells back, opens or collects once per key. */
  act(kind: 'sell' | 'open' | 'collect', player: string, request: ActRequest, key: string): Promise<ActAnswer> {
    return this.call('POST', ACT_PATHS[kind], { body: { player, ...request }, headers: { 'Idempotency-Key': key } });
  }
  /** What it would do; nothing happens. */
  actPreview(
    kind: 'sell' | 'open' | 'collect',
    player: string,
    request: ActRequest,
  ): Promise<Pick<ActAnswer, 'verdict'>> {
    return this.call('POST', ACT_PATHS[kind], { query: { preview: 1 }, body: { player, ...request } });
  }
  /** Uses in one batch, each `id` once, ever. */
  use(
    player: string,
    uses: readonly { id: string; item: string; times?: number }[],
  ): Promise<{ uses: (ActAnswer & { id: string })[] }> {
    return this.call('POST', '/uses', { body: { player, uses } });
  }

  // --- players

  players(query: PageQuery & { search?: string } = {}): Promise<Page<PlayerRow>> {
    return this.call('GET', '/players', { query: { ...query } });
  }
  createPlayer(
    id: string,
    options: { name?: string; attributes?: Record<string, number | string> } = {},
  ): Promise<PlayerView> {
    return this.call('POST', '/players', { body: { id, ...options } });
  }
  player(id: string): Promise<PlayerView> {
    return this.call('GET', `/players/${encodeURIComponent(id)}`);
  }
  ledger(id: string, page: PageQuery = {}): Promise<Page<MovementRow>> {
    return this.call('GET', `/players/${encodeURIComponent(id)}/ledger`, { query: { ...page } });
  }
  /** Amounts in smallest units. */
  grant(id: string, what: { gives?: Basket; takes?: Basket; reason: string }, key: string): Promise<GrantAnswer> {
    return this.call('POST', `/players/${encodeURIComponent(id)}/grants`, {
      body: what,
      headers: { 'Idempotency-Key': key },
    });
  }
  events(id: string, events: readonly ReportedEvent[]): Promise<{ events: EventAnswer[] }> {
    return this.call('POST', `/players/${encodeURIComponent(id)}/events`, { body: { events } });
  }

  // --- runs

  startRun(scenario: string, options: ScenarioOptions & { source?: string } = {}): Promise<RunView> {
    return this.call('POST', '/runs', { body: { scenario, ...options } });
  }
  runs(page: PageQuery = {}): Promise<Page<RunView>> {
    return this.call('GET', '/runs', { query: { ...page } });
  }
  run(id: number): Promise<RunView> {
    return this.call('GET', `/runs/${id}`);
  }
  runResult(id: number): Promise<SimulationResult> {
    return this.call('GET', `/runs/${id}/result`);
  }
  cancelRun(id: number): Promise<RunView> {
    return this.call('DELETE', `/runs/${id}`);
  }
  compareRuns(before: number, after: number): Promise<Comparison> {
    return this.call('GET', '/comparisons', { query: { before, after } });
  }

  /** Follows a run to its end; `onProgress` hears of each change. Resolves with the run as it ended. */
  async watchRun(id: number, onProgress?: (run: RunView) => void, signal?: AbortSignal): Promise<RunView> {
    const response = await this.request(
      'GET',
      `/runs/${id}/progress`,
      { headers: { Accept: 'text/event-stream' } },
      signal,
    );
    await streamRead(response, (data) => onProgress?.(JSON.parse(data) as RunView));
    return this.run(id);
  }

  // --- access

  signIn(token: string): Promise<Identity> {
    return this.call('POST', '/session', { body: { token } });
  }
  whoami(): Promise<Identity> {
    return this.call('GET', '/session');
  }
  signOut(): Promise<undefined> {
    return this.call('DELETE', '/session');
  }
  createToken(name: string, role: RoleName): Promise<{ name: string; role: RoleName; token: string }> {
    return this.call('POST', '/tokens', { body: { name, role } });
  }

  private async call<T>(method: string, path: string, call: Call = {}): Promise<T> {
    const response = await this.request(method, path, call);
    const text = await response.text();
    return (text === '' ? undefined : JSON.parse(text)) as T;
  }

  private async request(
    method: string,
    path: string,
    { query = {}, body, raw, headers = {} }: Call,
    signal?: AbortSignal,
  ): Promise<Response> {
    const { url, token, headers: always = {}, fetch: fetcher = fetch } = this.options;
    const search = new URLSearchParams(
      Object.entries(query)
        .filter(([, value]) => value !== undefined)
        .map(([name, value]): [string, string] => [name, String(value)]),
    ).toString();
    const response = await fetcher(`${url}/api/v1${path}${search ? `?${search}` : ''}`, {
      method,
      headers: {
        ...(body === undefined ? {} : { 'Content-Type': 'application/json' }),
        ...(raw ? { 'Content-Type': raw.type } : {}),
        ...(token ? { Authorization: `Bearer ${token}` } : {}),
        ...always,
        ...headers,
      },
      ...(raw ? { body: raw.content } : body === undefined ? {} : { body: JSON.stringify(body) }),
      ...(signal ? { signal } : {}),
    }).catch((error: unknown) => {
      if (signal?.aborted) throw error;
      throw new Unreachable(
        `No answer from ${url || 'the service'}: ${((error as Error).cause as Error | undefined)?.message ?? (error as Error).message}`,
      );
    });
    if (!response.ok) throw new ApiProblem(await problemOf(response));
    return response;
  }
}

const ACT_PATHS = { sell: '/buybacks', open: '/openings', collect: '/collections' } as const;
const savedFrom = (revision: number | undefined): Pick<Call, 'query' | 'headers'> =>
  revision === undefined ? { query: { preview: 1 } } : { headers: ifMatch(revision) };
const ifMatch = (revision: number): Record<string, string> => ({ 'If-Match': `"${revision}"` });

async function problemOf(response: Response): Promise<ProblemBody> {
  const text = await response.text();
  try {
    return JSON.parse(text) as ProblemBody;
  } catch {
    return {
      type: 'urn:dimestall:unknown',
      title: response.statusText,
      status: response.status,
      detail: `The service answered ${response.status} ${response.statusText}.`,
    };
  }
}

/** Reads server-sent events to the end of the answer. */
async function streamRead(response: Response, onData: (data: string) => void): Promise<void> {
  const decoder = new TextDecoder();
  const parser = createParser({ onEvent: ({ data }) => onData(data) });
  const reader = response.body!.getReader();
  for (let chunk = await reader.read(); !chunk.done; chunk = await reader.read())
    parser.feed(decoder.decode(chunk.value, { stream: true }));
}
