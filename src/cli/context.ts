/** What every command shares: where the service is, how to print, and how failures become exit codes. */
import { existsSync, readFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import type { Command } from 'commander';
import { Client } from '../client/index.js';

/** 0 fine, 1 a finding or a refusal, 2 wrong use, 3 service unreachable. */
export const EXIT = { fine: 0, finding: 1, usage: 2, unreachable: 3 } as const;

/** Wrong use that commander cannot see; told on stderr with exit code 2. */
export class UsageProblem extends Error {}
/** The command found something or was refused; what there is to say may have been printed already. */
export class CommandRefused extends Error {
  constructor(
    message: string,
    /** What was found, one by one: for those who read JSON, and for a person. */
    readonly found?: { json: Record<string, unknown>; print(): void },
  ) {
    super(message);
  }
}

export interface GlobalOptions {
  url?: string;
  token?: string;
  json?: boolean;
}

export const DEFAULT_URL = 'http://127.0.0.1:4780';

/** The service's address and token: from options, the environment, or the nearest `.dimestall/client.json`. */
export function clientOf(command: Command): Client {
  const options = command.optsWithGlobals<GlobalOptions>();
  const saved = savedAccess(process.cwd());
  const url = options.url ?? process.env['DIMESTALL_URL'] ?? saved?.url ?? DEFAULT_URL;
  const token = options.token ?? process.env['DIMESTALL_TOKEN'] ?? saved?.token;
  return new Client({ url: url.replace(/\/+$/, ''), ...(token ? { token } : {}) });
}

function savedAccess(from: string): { url: string; token: string } | undefined {
  for (let folder = resolve(from); ; folder = dirname(folder)) {
    const file = join(folder, '.dimestall', 'client.json');
    if (existsSync(file)) return JSON.parse(readFileSync(file, 'utf8')) as { url: string; token: string };
    if (folder === dirname(folder)) return undefined;
  }
}

export const wantsJson = (command: Command): boolean => command.optsWithGlobals<GlobalOptions>().json === true;
