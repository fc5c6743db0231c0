/** calendar, rotation: what a stretch of time brings, and what rotating shelves have on show. */
import type { Command } from 'commander';
import { DateTime } from 'luxon';
import { calendarIcs, calendarMake } from '../../core/calendar/index.js';
import type { Calendar, CalendarEntry } from '../../core/calendar/index.js';
import { DAY_MS } from '../../core/schedule/index.js';
import { instantText } from '../../core/texts/index.js';
import { calendarPath } from '../../contract/index.js';
import { UsageProblem, clientOf, wantsJson } from '../context.js';
import { instantAsked } from '../described.js';
import { folderLoad } from '../folder.js';
import { printTable } from '../output.js';
import { colors, print, printJson } from '../print.js';
import { serviceEconomy } from '../source.js';

/** Makes a token that can do nothing but this, and prints the address that it stands in. */
async function calendarSubscribe(
  command: Command,
  name: string,
  { shop, player, source, ...others }: Omit<CalendarOptions, 'folder' | 'ics' | 'subscribe'>,
): Promise<void> {
  const [other] = Object.keys(others);
  if (other !== undefined)
    throw new UsageProblem(
      `--${other} does not go with --subscribe: the address tells of 31 days before today to 183 after.`,
    );
  const client = clientOf(command);
  const { token } = await client.call('POST /tokens', { body: { name, role: 'calendar' } });
  const asked = Object.entries({ shop, player, source }).filter((one): one is [string, string] => one[1] !== undefined);
  const query = new URLSearchParams(asked).toString();
  const address = `${client.url}${calendarPath(token)}${query === '' ? '' : `?${query}`}`;
  if (wantsJson(command)) printJson({ name, address });
  else print(`${address}\nWhoever has this address can read it. End it with: dimestall tokens ID --revoke`);
}

interface CalendarOptions {
  from?: string;
  to?: string;
  shop?: string;
  player?: string;
  source?: string;
  folder?: string;
  ics?: boolean;
  subscribe?: string;
}

export function addTimeCommands(program: Command): void {
  program
    .command('calendar')
    .description('rotations, sales, windows and ends of a stretch of time, with what conflicts')
    .option('--from <instant>', 'from when; now by default')
    .option('--to <instant>', 'until when; 14 days later by default')
    .option('--shop <id>', 'only this shop')
    .option('--player <id>', 'whose selection, where each player has their own')
    .option('--source <source>', 'draft, a channel or a release number')
    .option('--folder <folder>', 'of an economy folder, without a service')
    .option('--ics', 'as iCalendar, for any calendar program')
    .option('--subscribe <name>', 'make an address that a calendar program can follow, and say whose it is')
    .action(async (options: CalendarOptions, command: Command) => {
      const { folder, ics, subscribe, ...query } = options;
      if (subscribe !== undefined) return calendarSubscribe(command, subscribe, query);
      if (folder === undefined && ics) {
        process.stdout.write(await clientOf(command).call('GET /calendar.ics', { query: query }));
        return;
      }
      const calendar =
        folder === undefined
          ? await clientOf(command).call('GET /calendar', { query: query })
          : folderCalendar(folder, query);
      if (ics) process.stdout.write(calendarIcs(calendar, calendar.lanes.at(-1)!.name, Date.now()));
      else if (wantsJson(command)) printJson(calendar);
      else printCalendar(calendar);
    });

  program
    .command('rotation [shelf]')
    .description('what rotating shelves have on show; pin an offer into a period, take one out, or redraw it')
    .option('--at <instant>', 'which period; the running one by default')
    .option('--player <id>', 'whose selection, where each player has their own')
    .option('--source <source>', 'draft, a channel or a release number')
    .option('--pin <offer>', 'put it on show in that period')
    .option('--without <offer>', 'take it out of that period')
    .option('--redraw', 'draw that period again')
    .option('--undo <record>', 'take a pin or a redraw back', Number)
    .option('--why <text>', 'a word on why')
    .action(async (shelf: string | undefined, options: RotationOptions, command: Command) => {
      const client = clientOf(command);
      const { at, player, source, undo, why, ...change } = options;
      const { zone } = await serviceEconomy(client, source ?? 'live');
      if (undo !== undefined) await client.call('DELETE /rotations/records/{record}', { params: { record: undo } });
      if (Object.keys(change).length > 0) {
        const [shop, id] = (shelf ?? '').split('/');
        if (!shop || !id) throw new UsageProblem('Name the shelf as SHOP/SHELF, such as lantern_wagon/tonight.');
        await client.call('POST /rotations/{shop}/{shelf}/records', {
          params: { shop, shelf: id },
          body: { ...change, ...(at === undefined ? {} : { at }), ...(why === undefined ? {} : { why }) },
          query: { source },
        });
      }
      const { items } = await client.call('GET /rotations', {
        query: {
          ...(at === undefined ? {} : { at }),
          ...(player === undefined ? {} : { player }),
          ...(source === undefined ? {} : { source }),
        },
      });
      const shown = items.filter((one) => shelf === undefined || `${one.shop}/${one.shelf}` === shelf);
      if (wantsJson(command)) printJson(shown);
      else
        for (const { shop, shelf: id, name, startMs, endMs, shown: offers, records } of shown) {
          print(`${colors.bold(name)} (${shop}/${id}), ${instantText(zone, startMs)} to ${instantText(zone, endMs)}`);
          print(`  on show: ${offers.map((offer) => `${offer.name}${offer.pinned ? ' [pinned]' : ''}`).join(', ')}`);
          for (const { id: record, kind, offer, madeBy, why: reason } of records)
            print(
              `  record ${record}: ${kind === 'pin' ? 'pinned' : 'taken out'} ${offer} by ${madeBy}${reason ? `: ${reason}` : ''}`,
            );
        }
    });
}

interface RotationOptions {
  at?: string;
  player?: string;
  source?: string;
  pin?: string;
  without?: string;
  redraw?: boolean;
  undo?: number;
  why?: string;
}

function folderCalendar(folder: string, { from, to, shop, player }: CalendarOptions): Calendar {
  const { economy } = folderLoad(folder);
  const fromMs = instantAsked(economy.zone, from);
  const toMs = instantAsked(economy.zone, to, fromMs + 14 * DAY_MS);
  if (toMs <= fromMs) throw new UsageProblem('--to must come after --from.');
  return calendarMake(economy, { fromMs, toMs, shop, ...(player === undefined ? {} : { player }) });
}

const KINDS: Record<CalendarEntry['kind'], string> = {
  open: 'open',
  rotation: 'on show',
  sale: 'sale',
  offer: 'offer',
  end: 'end',
  release: 'release',
};

function printCalendar({ lanes, zone, fromMs, toMs, cut }: Calendar): void {
  print(`${instantText(zone, fromMs)} to ${instantText(zone, toMs)}`);
  const short = (ms: number): string => DateTime.fromMillis(ms, { zone }).toFormat('ccc d LLL HH:mm', { locale: 'en' });
  for (const { name, entries } of lanes) {
    if (entries.length === 0) continue;
    print(`\n${colors.bold(name)}`);
    printTable(
      ['from', 'until', 'what', ''],
      [...entries]
        .sort((a, b) => a.startMs - b.startMs)
        .map((entry) => [
          short(entry.startMs),
          entry.endMs > entry.startMs ? short(entry.endMs) : '',
          KINDS[entry.kind],
          entryText(entry),
        ]),
    );
  }
  if (cut) print('\nThere is more than is listed: choose a shorter stretch, or one shop.');
}

function entryText({ kind, name, offers, warnings }: CalendarEntry): string {
  const listed = offers.map((offer) => offer.name);
  const shown = listed.slice(0, 4).join(', ') + (listed.length > 4 ? ` and ${listed.length - 4} more` : '');
  const text = kind === 'rotation' ? shown || 'nothing' : kind === 'sale' ? `${name}: ${shown}` : name;
  return warnings.length === 0 ? text : `${text}  ${colors.yellow(`! ${warnings.join('; ')}`)}`;
}
