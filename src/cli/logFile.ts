/** Logs of what a game recorded, as files: packed or not, whole or with lines that cannot be read. */
import { readFileSync } from 'node:fs';
import { gunzipSync } from 'node:zlib';
import { countText } from '../core/issue/index.js';
import { MAX_LOG_LENGTH } from '../core/log/index.js';
import type { LogRead, PurchasesRead } from '../core/log/index.js';
import { CommandRefused } from './context.js';
import { colors, print } from './print.js';

/** The two bytes with which what gzip packed begins. */
const PACKED = [0x1f, 0x8b];

/** A log's text. Throws what the operating system says with the path, and says when there is too much of it. */
export function logText(path: string): string {
  let bytes: Buffer;
  try {
    bytes = readFileSync(path);
  } catch (error) {
    throw Object.assign(error as Error, { path });
  }
  if (bytes.length <= MAX_LOG_LENGTH && !PACKED.every((byte, place) => bytes[place] === byte)) return bytes.toString();
  try {
    if (bytes.length <= MAX_LOG_LENGTH) return gunzipSync(bytes, { maxOutputLength: MAX_LOG_LENGTH }).toString();
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'ERR_BUFFER_TOO_LARGE')
      throw new CommandRefused(`${path} cannot be unpacked: ${(error as Error).message}.`);
  }
  throw new CommandRefused(
    `${path} is too large: ${MAX_LOG_LENGTH / 1e6} MB are the most that a log may have. Split it, by days or players.`,
  );
}

/** So many broken lines are told one by one. */
const TOLD = 20;

type Read = PurchasesRead & Partial<LogRead>;

const isNothing = ({ purchases, others, events = [], unknown = {} }: Read): boolean =>
  purchases.length + others + events.length + Object.keys(unknown).length === 0;

/** What was read, unless lines of it are broken and not to be left out. Where nothing else is there, they cannot be. */
export function wholeLog<T extends Read>(path: string, read: T, skipBroken: boolean): T {
  const { broken } = read;
  const nothing = isNothing(read);
  if (broken.length === 0 || (skipBroken && !nothing)) return read;
  throw new CommandRefused(
    nothing
      ? `Nothing of ${path} can be read; nothing was done.`
      : `${countText(broken.length, 'line')} of ${path} cannot be read; nothing was done. Mend them, or leave them out with --skip-broken.`,
    {
      json: { file: path, broken },
      print: () => {
        for (const { line, problem } of broken.slice(0, TOLD)) print(`${colors.red(`${path}:${line}`)}: ${problem}`);
        if (broken.length > TOLD) print(`and ${broken.length - TOLD} more`);
      },
    },
  );
}
