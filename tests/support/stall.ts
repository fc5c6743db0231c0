/** A service on loopback for tests, with a clock that the test sets, and a client for each role. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Client } from '../../src/client/index.js';
import type { EconomyDocument } from '../../src/core/document/index.js';
import { ROLE_NAMES } from '../../src/contract/index.js';
import type { Role } from '../../src/contract/index.js';
import { serviceStart } from '../../src/service/index.js';
import type { Service } from '../../src/service/index.js';
import { NOW, demoDocument } from './economy.js';
import { RunFile } from './runFile.js';

/** A PNG of one point. */
export const POINT_PNG = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mP8z8BQDwAEhQGAhKmMIQAAAABJRU5ErkJggg==',
  'base64',
);

export interface Stall {
  url: string;
  service: Service;
  clock: { nowMs: number };
  tokens: Record<Role, string>;
  as(role: Role): Client;
  /** A raw request to the API, signed in as `role`. */
  raw(method: string, path: string, options?: RawOptions): Promise<Response>;
  stop(): Promise<void>;
}

export interface RawOptions {
  role?: Role | 'nobody';
  body?: unknown;
  headers?: Record<string, string>;
}

export interface StallOptions {
  document?: EconomyDocument;
  /** False leaves the draft empty and nothing live. */
  publish?: boolean;
  /** A database file; in memory by default. */
  data?: string;
  /** What each token may ask for in a second; without a limit by default, so that no test depends on its speed. */
  workMsPerSecond?: number;
}

/** The database of a stall on which the demo is live: most tests begin with it. */
const demoLive = new RunFile('demo-live.sqlite');

export async function startStall(options: StallOptions = {}): Promise<Stall> {
  const clock = { nowMs: NOW };
  const isDemo = options.data === undefined && options.document === undefined && options.publish !== false;
  const prepared = isDemo ? demoLive.get() : undefined;
  const { service, url, close } = await serviceStart({
    data: options.data ?? prepared ?? ':memory:',
    port: 0,
    now: () => clock.nowMs,
    logLevel: 'silent',
    // Whatever goes out, to the client or to raw HTTP, must be what the contract says.
    checkAnswers: true,
    workMsPerSecond: options.workMsPerSecond ?? 1_000_000,
  });
  const tokens = {} as Record<Role, string>;
  for (const role of ROLE_NAMES) tokens[role] = service.access.issue(role, role);
  const as = (role: Role) => new Client({ url, token: tokens[role] });
  if (options.publish !== false && !prepared) {
    await as('admin').call('PUT /draft', {
      body: options.document ?? demoDocument(),
      revision: 0,
      query: { why: 'test' },
    });
    await as('admin').call('POST /releases', { body: { note: 'first' } });
    if (isDemo) demoLive.keep(service.database.raw.serialize());
  }
  const raw: Stall['raw'] = (method, path, { role = 'admin', body, headers = {} } = {}) =>
    fetch(`${url}${path.startsWith('/api') ? '' : '/api/v1'}${path}`, {
      method,
      headers: {
        ...(role === 'nobody' ? {} : { Authorization: `Bearer ${tokens[role]}` }),
        ...(body === undefined ? {} : { 'Content-Type': 'application/json' }),
        ...headers,
      },
      ...(body === undefined ? {} : { body: typeof body === 'string' ? body : JSON.stringify(body) }),
    });
  return { url, service, clock, tokens, as, raw, stop: close };
}

/** A folder that is removed with `remove`. */
export function scratchFolder(): { path: string; remove(): void } {
  const path = mkdtempSync(join(tmpdir(), 'dimestall-test-'));
  return { path, remove: () => rmSync(path, { recursive: true, force: true }) };
}

/** The problem that a promise rejects with. */
export async function problemOf(
  promise: Promise<unknown>,
): Promise<{ kind: string; status: number; body: Record<string, unknown>; message: string }> {
  try {
    await promise;
  } catch (error) {
    return error as { kind: string; status: number; body: Record<string, unknown>; message: string };
  }
  throw new Error('it was not refused');
}
