/** edit, csv, silence: changing several places of the draft or of a folder. */
import { writeFileSync } from 'node:fs';
import type { Command } from 'commander';
import { Option } from 'commander';
import { SHEET_NAMES, csvRead, csvWrite } from '../../core/catalog/index.js';
import type { Edited, SheetName } from '../../core/catalog/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { countText, pointerOf } from '../../core/issue/index.js';
import { CommandRefused, UsageProblem, clientOf } from '../context.js';
import { fileText } from '../file.js';
import { folderLoad } from '../folder.js';
import { changeDraft, changeFolder, printShown, runEdit, withChange } from '../changing.js';
import type { ChangeOptions } from '../changing.js';
import { colors, print } from '../print.js';
import { collect, parseOverrides } from '../parse.js';

/** The draft's document, or a folder's. */
async function documentFrom(folder: string | undefined, command: Command): Promise<EconomyDocument> {
  return folder === undefined ? (await clientOf(command).call('GET /draft')).document : folderLoad(folder).document;
}

function offerPointer(document: EconomyDocument, offer: string): string {
  if (offer.startsWith('/')) return offer;
  for (const [shop, { shelves }] of Object.entries(document.shops ?? {}))
    for (const [shelf, { offers }] of Object.entries(shelves))
      if (Object.hasOwn(offers, offer)) return pointerOf(['shops', shop, 'shelves', shelf, 'offers', offer]);
  throw new UsageProblem(`There is no offer "${offer}".`);
}

interface RepriceOptions extends ChangeOptions {
  group?: string;
  tag?: string;
  shop?: string;
  id?: string[];
  of?: 'items' | 'offers' | 'both';
  asset?: string;
  round?: string;
  way: 'up' | 'down' | 'nearest';
}

interface LadderOptions extends ChangeOptions {
  first: string;
  factor: string;
  exact?: boolean;
}

/** `5:10` is five for ten percent less. */
function parseTier(written: string): { count: number; discount: number } {
  const match = /^(\d+):(\d+(?:\.\d+)?)%?$/.exec(written);
  if (!match) throw new UsageProblem(`"${written}" should be a count and a discount in percent, such as 5:10.`);
  return { count: Number(match[1]), discount: Number(match[2]) };
}

function addEditCommands(program: Command): void {
  const edit = program.command('edit').description('change several places of the draft, or of a folder, at once');

  withChange(edit.command('set <pointer> [value]').description('set one value; without a value, take it away')).action(
    (pointer: string, value: string | undefined, options: ChangeOptions, command: Command) => {
      const [[, parsed] = []] = value === undefined ? [] : Object.entries(parseOverrides([`${pointer}=${value}`]));
      return runEdit({ kind: 'set', pointer, ...(value === undefined ? {} : { value: parsed }) }, options, command);
    },
  );

  withChange(edit.command('remove <pointer>').description('remove a thing; refused while others refer to it'))
    .option('--mend', 'remove what refers to it too')
    .action((pointer: string, { mend, ...options }: ChangeOptions & { mend?: boolean }, command: Command) =>
      runEdit({ kind: 'remove', pointer, ...(mend ? { mend } : {}) }, options, command),
    );

  withChange(edit.command('duplicate <pointer>').description('copy a thing with all it holds, right behind it'))
    .option('--name <text>', "the copy's name")
    .action((pointer: string, { name, ...options }: ChangeOptions & { name?: string }, command: Command) =>
      runEdit({ kind: 'duplicate', pointer, ...(name === undefined ? {} : { name }) }, options, command),
    );

  withChange(edit.command('move <pointer>').description('put a shop, shelf or offer elsewhere among its own kind'))
    .option('--before <id>', 'stand before this one; at the end by default')
    .option('--into <pointer>', 'move into another shelf or shop, such as /shops/pier_stall/shelves/care/offers')
    .action(
      (
        pointer: string,
        { before, into, ...options }: ChangeOptions & { before?: string; into?: string },
        command: Command,
      ) =>
        runEdit(
          {
            kind: 'move',
            pointer,
            ...(before === undefined ? {} : { before }),
            ...(into === undefined ? {} : { into }),
          },
          options,
          command,
        ),
    );

  withChange(
    edit.command('reprice <percent>').description('raise or lower many prices: 10 is ten percent more, -15 less'),
  )
    .option('--group <id>', 'items of this group, and what sells them')
    .option('--tag <tag>', 'items with this tag')
    .option('--shop <id>', "only this shop's own prices")
    .option('--id <id>', 'this item or offer; may be given several times', collect)
    .addOption(new Option('--of <what>', "items' worth, offers' own prices").choices(['items', 'offers', 'both']))
    .option('--asset <id>', 'only amounts in this currency, item or money code')
    .option('--round <step>', 'to a multiple of this')
    .addOption(new Option('--way <way>', 'how to round').choices(['up', 'down', 'nearest']).default('nearest'))
    .action(async (percent: string, options: RepriceOptions, command: Command) => {
      const { group, tag, shop, id, of, asset, round, way, ...rest } = options;
      const where = {
        ...(group ? { group } : {}),
        ...(tag ? { tag } : {}),
        ...(shop ? { shop } : {}),
        ...(id ? { ids: id } : {}),
      };
      if (Number.isNaN(Number(percent)) || (round !== undefined && Number.isNaN(Number(round))))
        throw new UsageProblem('Write numbers, such as: dimestall edit reprice 10 --group frames --round 5 --way up');
      if (Object.keys(where).length === 0) throw new UsageProblem('Say which prices: --group, --tag, --shop or --id.');
      await runEdit(
        {
          kind: 'reprice',
          where,
          percent: Number(percent),
          ...(of ? { of } : {}),
          ...(asset ? { asset } : {}),
          ...(round === undefined ? {} : { round: { to: Number(round), way } }),
        },
        rest,
        command,
      );
    });

  withChange(
    edit
      .command('ladder <pointer...>')
      .description(
        'prices that grow by a factor from one to the next, the lowest first; dimestall ladder --json tells them',
      ),
  )
    .requiredOption('--first <amount>', 'the first price')
    .requiredOption('--factor <number>', 'how many times the one before each price is, such as 1.4')
    .option('--exact', 'to smallest units, not to numbers that people like')
    .action(async (at: string[], options: LadderOptions, command: Command) => {
      const { first, factor, exact, ...rest } = options;
      if (Number.isNaN(Number(first)) || Number.isNaN(Number(factor)))
        throw new UsageProblem('Write numbers, such as: --first 100 --factor 1.4');
      await runEdit(
        { kind: 'ladder', at, first: Number(first), factor: Number(factor), ...(exact ? { preferred: false } : {}) },
        rest,
        command,
      );
    });

  withChange(
    edit.command('tiers <offer> <tier...>').description('volume tiers: 3:5 5:10 adds x3 at 5 % and x5 at 10 % less'),
  )
    .option('--round <step>', 'prices to a multiple of this')
    .addOption(new Option('--way <way>', 'how to round').choices(['up', 'down', 'nearest']).default('down'))
    .action(
      async (
        offer: string,
        tiers: string[],
        { round, way, ...options }: ChangeOptions & { round?: string; way: 'up' | 'down' | 'nearest' },
        command: Command,
      ) => {
        const pointer = offerPointer(await documentFrom(options.folder, command), offer);
        const rounding = round === undefined ? {} : { round: { to: Number(round), way } };
        await runEdit({ kind: 'tiers', pointer, tiers: tiers.map(parseTier), ...rounding }, options, command);
      },
    );
}

function addCsvCommands(program: Command): void {
  const csv = program.command('csv').description(`sheets for spreadsheets: ${SHEET_NAMES.join(', ')}`);
  const sheetArgument = (name: string): SheetName => {
    const sheet = SHEET_NAMES.find((one) => one === name);
    if (!sheet) throw new UsageProblem(`There is no sheet "${name}". Sheets: ${SHEET_NAMES.join(', ')}.`);
    return sheet;
  };
  csv
    .command('export <sheet>')
    .description('print a sheet as CSV')
    .option('--folder <folder>', 'of an economy folder instead of the draft')
    .option('--out <file>', 'write it to a file')
    .action(async (sheet: string, { folder, out }: { folder?: string; out?: string }, command: Command) => {
      const name = sheetArgument(sheet);
      const text =
        folder === undefined
          ? await clientOf(command).call('GET /draft/sheets/{sheet}', { params: { sheet: name } })
          : csvWrite(folderLoad(folder).document, name);
      if (out === undefined) process.stdout.write(text);
      else writeFileSync(out, text);
    });
  withChange(
    csv.command('import <sheet> <file>').description('bring CSV rows in; what they do not mention stays'),
  ).action(async (sheet: string, file: string, { folder, preview }: ChangeOptions, command: Command) => {
    const name = sheetArgument(sheet);
    const text = fileText(file);
    const client = clientOf(command);
    const shown =
      folder === undefined
        ? await changeDraft(client, preview, (how) =>
            client.call('POST /draft/sheets/{sheet}', {
              params: { sheet: name },
              type: 'text/csv',
              body: text,
              ...how,
            }),
          )
        : changeFolder(folder, preview, (document) => csvEdited(document, name, text, file));
    printShown(shown, preview, command);
  });
}

function csvEdited(document: EconomyDocument, sheet: SheetName, text: string, file: string): Edited {
  const read = csvRead(document, sheet, text);
  if (read.ok) return read;
  throw new CommandRefused(`${countText(read.problems.length, 'problem')} in ${file}; nothing was changed`, {
    json: { file, cells: read.problems },
    print: () => {
      for (const { line, column, message } of read.problems)
        print(`${colors.red(`${file}:${line}`)}${column ? ` ${column}` : ''}: ${message}`);
    },
  });
}

function addSilenceCommand(program: Command): void {
  withChange(
    program.command('silence <code> <pointer> <why>').description('silence a hint of the audit, with the reason'),
  ).action((code: string, pointer: string, why: string, options: ChangeOptions, command: Command) =>
    runEdit(
      { kind: 'set', pointer: pointerOf(['audit', 'silenced', `${code} ${pointer}`]), value: why },
      options,
      command,
    ),
  );
}

export function addCatalogCommands(program: Command): void {
  addEditCommands(program);
  addCsvCommands(program);
  addSilenceCommand(program);
}
