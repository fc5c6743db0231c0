/** publish, channel, history: releases, where channels point, and the way back. */
import type { Command } from 'commander';
import { ApiProblem } from '../../client/index.js';
import type { Client } from '../../client/index.js';
import type { Place } from '../../core/issue/index.js';
import type { CaseResult } from '../../core/cases/index.js';
import { caseLines } from '../../core/texts/rehearsed.js';
import { instantText } from '../../core/texts/sentence.js';
import type { MoveView, Published } from '../../contract/index.js';
import { CommandRefused, UsageProblem, clientOf, wantsJson } from '../context.js';
import { printTable, refusedFor } from '../output.js';
import { print, printJson } from '../print.js';
import { parseNumber } from '../parse.js';

interface Publishing {
  note: string;
  channel: string;
  at?: string;
  revision?: number;
}

/** Publishes; errors of the audit are listed, with their places in files where those are known. */
export async function publishOrList(
  client: Client,
  { note, ...options }: Publishing,
  placeOf?: (pointer: string) => Place | undefined,
): Promise<Published> {
  try {
    return await client.call('POST /releases', { body: { note, ...options } });
  } catch (error) {
    const broken = error instanceof ApiProblem ? error.more('broken-cases') : undefined;
    if (broken) throw casesRefused(broken.detail, broken.cases);
    const refused = error instanceof ApiProblem ? error.more('audit-errors') : undefined;
    if (!refused) throw error;
    throw refusedFor(
      refused.detail,
      refused.findings.map((finding) => {
        const place = placeOf?.(finding.pointer);
        return place ? { ...finding, place } : finding;
      }),
    );
  }
}

/** What does not hold, case by case. */
const casesRefused = (detail: string, cases: readonly CaseResult[]): CommandRefused =>
  new CommandRefused(detail, {
    json: { cases },
    print: () => {
      for (const one of cases) for (const line of caseLines(one)) print(`${one.name}: ${line}`);
    },
  });

export function printPublished(
  { number, channel, scheduled, fromMs, coming, brokenCases }: Published,
  zone: string,
): void {
  print(
    scheduled
      ? `Release ${number} is set to go ${channel} at ${instantText(zone, fromMs)}.`
      : `Release ${number} is published on ${channel}.`,
  );
  if (brokenCases.length > 0)
    print(`These cases do not hold in it: ${brokenCases.join(', ')}. What and since when: dimestall cases`);
  for (const { move, release, atMs } of coming)
    print(
      `Release ${release} is set to come on ${channel} at ${instantText(zone, atMs)}. To take that back: dimestall channel ${channel} --cancel ${move}`,
    );
}

interface ChannelOptions {
  to?: number;
  at?: string;
  note?: string;
  back?: boolean;
  cancel?: number;
  delete?: boolean;
  anyway?: boolean;
}

export function addReleaseCommands(program: Command): void {
  program
    .command('publish')
    .description('make the draft a numbered release that is live, at once or from a set time')
    .requiredOption('--note <text>', 'what this release is about')
    .option('--channel <name>', 'which channel to point at it', 'live')
    .option('--at <instant>', 'from when on, such as 2027-04-26T09:00; at once by default')
    .action(async (options: Publishing, command: Command) => {
      const client = clientOf(command);
      const release = await publishOrList(client, options);
      if (wantsJson(command)) printJson(release);
      else printPublished(release, (await client.call('GET /draft')).document.timeZone);
    });

  program
    .command('channel [name]')
    .description('where channels point; point one at a release, now or from a set time, or go back')
    .option('--to <release>', 'point it at this release', parseNumber(1, Number.MAX_SAFE_INTEGER))
    .option('--at <instant>', 'from when on')
    .option('--note <text>', 'why')
    .option('--back', 'point it at the release that it pointed at before')
    .option('--cancel <move>', 'take back what is scheduled', parseNumber(1, Number.MAX_SAFE_INTEGER))
    .option('--delete', 'delete it; refused while it is in use')
    .option('--anyway', 'delete it all the same')
    .action(async (name: string | undefined, options: ChannelOptions, command: Command) => {
      const client = clientOf(command);
      const { timeZone: zone } = (await client.call('GET /draft')).document;
      if (name === undefined) await listChannels(client, zone, command);
      else await changeChannel(client, name, zone, options, command);
    });

  program
    .command('history [revision]')
    .description('who saved the draft, when and why; what one revision changed; the way back to it')
    .option('--back', 'save that revision anew: nothing of the history is lost')
    .option('--limit <n>', 'how many', parseNumber(1, 500), 20)
    .action(
      async (written: string | undefined, { back, limit }: { back?: boolean; limit: number }, command: Command) => {
        const client = clientOf(command);
        const { timeZone: zone } = (await client.call('GET /draft')).document;
        if (written === undefined) {
          const { items } = await client.call('GET /draft/revisions', { query: { limit } });
          if (wantsJson(command)) printJson(items);
          else
            printTable(
              ['revision', 'when', 'by', 'why'],
              items.map(({ revision, savedMs, savedBy, why }) => [revision, instantText(zone, savedMs), savedBy, why]),
            );
          return;
        }
        const revision = parseNumber(1, Number.MAX_SAFE_INTEGER)(written);
        if (back) {
          const saved = await client.call('POST /draft/undo', {
            body: { to: revision },
            revision: (await client.call('GET /draft')).revision,
          });
          if (wantsJson(command)) printJson(saved);
          else print(`Draft revision ${saved.revision} is what revision ${revision} was.`);
          return;
        }
        const one = await client.call('GET /draft/revisions/{revision}', { params: { revision } });
        if (wantsJson(command)) printJson(one);
        else {
          print(`Revision ${revision}, by ${one.savedBy} at ${instantText(zone, one.savedMs)}: ${one.why}`);
          for (const { words } of one.changes) print(`  ${words}`);
        }
      },
    );
}

async function listChannels(client: Client, zone: string, command: Command): Promise<void> {
  const { items } = await client.call('GET /channels');
  if (wantsJson(command)) {
    printJson(items);
    return;
  }
  if (items.length === 0) print('No channel points at anything yet. Publish first: dimestall publish --note "...".');
  printTable(
    ['channel', 'release', 'since', 'by', 'to come'],
    items.map(({ name, release, changedMs, changedBy, coming }) => [
      name,
      release ?? '-',
      changedMs === null ? '-' : instantText(zone, changedMs),
      changedBy ?? '-',
      coming.map((move) => comingText(move, zone)).join(', '),
    ]),
  );
}

const comingText = ({ move, release, atMs }: MoveView, zone: string): string =>
  `release ${release} at ${instantText(zone, atMs)} (move ${move})`;

async function changeChannel(
  client: Client,
  name: string,
  zone: string,
  { to, at, note, back, cancel, delete: remove, anyway }: ChannelOptions,
  command: Command,
): Promise<void> {
  const say = (answer: unknown, line: string): void => {
    if (wantsJson(command)) printJson(answer);
    else print(line);
  };
  if ([to, back, cancel, remove].filter((one) => one !== undefined).length > 1)
    throw new UsageProblem('Use one of --to, --back, --cancel and --delete.');
  const more = { ...(at === undefined ? {} : { at }), ...(note === undefined ? {} : { note }) };
  if (cancel !== undefined) {
    const { release, atMs } = await client.call('DELETE /channels/{channel}/moves/{move}', {
      params: { channel: name, move: cancel },
    });
    say({ cancelled: cancel }, `Release ${release} will not come on ${name} at ${instantText(zone, atMs)}.`);
  } else if (remove) {
    say(
      await client.call('DELETE /channels/{channel}', { params: { channel: name }, query: { anyway } }),
      `The channel ${name} is deleted.`,
    );
  } else if (to !== undefined || back) {
    const release = to ?? (await releaseBefore(client, name));
    const answer = await client.call('PUT /channels/{channel}', {
      params: { channel: name },
      body: { release, ...more },
    });
    const set = at === undefined ? undefined : answer.coming.find((move) => move.release === release);
    say(
      answer,
      set
        ? `Release ${release} is set to go ${name} at ${instantText(zone, set.atMs)}.`
        : `The channel ${name} points at release ${release}.`,
    );
  } else {
    const { items } = await client.call('GET /channels/{channel}/moves', { params: { channel: name } });
    if (wantsJson(command)) printJson(items);
    else
      printTable(
        ['move', 'release', 'from', 'by', 'note', ''],
        items.map(({ move, release, atMs, madeBy, note: why, endedBy }) => [
          move,
          release,
          instantText(zone, atMs),
          madeBy,
          why,
          endedBy === null ? '' : `taken back by ${endedBy}`,
        ]),
      );
  }
}

/** The release that a channel pointed at before the one it points at now. */
async function releaseBefore(client: Client, name: string): Promise<number> {
  const [{ items: channels }, { items: moves }] = await Promise.all([
    client.call('GET /channels'),
    client.call('GET /channels/{channel}/moves', { params: { channel: name } }),
  ]);
  const now = channels.find((channel) => channel.name === name);
  const coming = new Set(now?.coming.map(({ move }) => move));
  const before = moves.find(
    ({ move, release, endedMs }) => endedMs === null && !coming.has(move) && release !== now?.release,
  );
  if (!now || !before) throw new CommandRefused(`The channel ${name} has never pointed at another release.`);
  return before.release;
}
