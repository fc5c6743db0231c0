/**
 * The typed HTTP client: what the CLI, the console, the tests and a game back end call. It has no list of operations:
 * what may be asked, and what comes back, TypeScript reads from the contract; at run time a key such as
 * `GET /shops/{shop}/front` says everything.
 */
import { createParser } from 'eventsource-parser';
import type {
  Answer,
  EventOf,
  Input,
  Key,
  ProblemBody,
  ProblemKind,
  ProblemMore,
  RunView,
  StreamKey,
} from '../contract/index.js';

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
  /** What problems of this kind say beside what all say; undefined where it is of another kind. */
  more<K extends ProblemKind>(kind: K): (ProblemBody & ProblemMore<K>) | undefined {
    return this.kind === kind ? (this.body as ProblemBody & ProblemMore<K>) : undefined;
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

/** An input without its types: what any operation may be given. */
interface Said {
  params?: Record<string, string | number>;
  query?: Record<string, unknown>;
  body?: unknown;
  /** The media type of a body that is no JSON. */
  type?: string;
  revision?: number | undefined;
  key?: string | undefined;
}
/** An operation that needs to be told nothing can be called with nothing. */
type Arguments<K extends Key> = Partial<Input<K>> extends Input<K> ? [input?: Input<K>] : [input: Input<K>];

export class Client {
  constructor(private readonly options: ClientOptions) {}

  /** Where the service is. */
  get url(): string {
    return this.options.url;
  }

  /**
   * Does one operation and gives its answer. Rejects with `ApiProblem` when the service refuses, and with
   * `Unreachable` when it does not answer.
   */
  async call<K extends Key>(key: K, ...[input]: Arguments<K>): Promise<Answer<K>> {
    const response = await this.request(key, input as Said | undefined);
    return (await answerOf(response)) as Answer<K>;
  }

  /** Hears the events of an operation until it ends or `signal` says stop. */
  async listen<K extends StreamKey>(
    key: K,
    input: Input<K>,
    onEvent: (event: EventOf<K>) => void,
    { signal, onOpen }: { signal?: AbortSignal; onOpen?: () => void } = {},
  ): Promise<void> {
    const response = await this.request(key, input as Said, { Accept: 'text/event-stream' }, signal);
    onOpen?.();
    await streamRead(response, (data) => onEvent(JSON.parse(data) as EventOf<K>));
  }

  /** Follows a run to its end; `onProgress` hears of each change. Resolves with the run as it ended. */
  async watchRun(
    id: number,
    onProgress: (run: RunView) => void = () => undefined,
    signal?: AbortSignal,
  ): Promise<RunView> {
    const params = { run: id };
    await this.listen('GET /runs/{run}/progress', { params }, onProgress, signal ? { signal } : {});
    return this.call('GET /runs/{run}', { params });
  }

  private async request(
    key: Key,
    { params = {}, query = {}, body, type, revision, key: once }: Said = {},
    headers: Record<string, string> = {},
    signal?: AbortSignal,
  ): Promise<Response> {
    const { url, token, headers: always = {}, fetch: fetcher = fetch } = this.options;
    const [method, path] = key.split(' ') as [string, string];
    const place = path.replace(/\{(\w+)\}/g, (_, name: string) => encodeURIComponent(params[name]!));
    const search = searchOf(query);
    const json = type === undefined;
    const response = await fetcher(`${url}/api/v1${place}${search ? `?${search}` : ''}`, {
      method,
      headers: {
        ...(body === undefined
          ? {}
          : { 'Content-Type': type ?? (method === 'PATCH' ? JSON_PATCH : 'application/json') }),
        ...(token ? { Authorization: `Bearer ${token}` } : {}),
        ...(revision === undefined ? {} : { 'If-Match': `"${revision}"` }),
        ...(once === undefined ? {} : { 'Idempotency-Key': once }),
        ...always,
        ...headers,
      },
      ...(body === undefined ? {} : { body: json ? JSON.stringify(body) : (body as string) }),
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

const JSON_PATCH = 'application/json-patch+json';

/** What is not given is not sent; what is more than one value is written as JSON. */
const searchOf = (query: Record<string, unknown>): string =>
  new URLSearchParams(
    Object.entries(query)
      .filter(([, value]) => value !== undefined)
      .map(([name, value]): [string, string] => [
        name,
        typeof value === 'object' ? JSON.stringify(value) : String(value),
      ]),
  ).toString();

/** JSON as what it holds, text as text, anything else as bytes. */
async function answerOf(response: Response): Promise<unknown> {
  const type = response.headers.get('content-type') ?? '';
  if (type.startsWith('application/json')) return response.json();
  if (type.startsWith('text/')) return response.text();
  const bytes = await response.arrayBuffer();
  return bytes.byteLength === 0 ? undefined : bytes;
}

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
