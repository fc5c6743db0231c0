/** odds, uses, flow, edit, csv, picture, silence: the designer's tools, on the draft or on a folder. */
import { basename, extname, join } from 'node:path';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import type { Command } from 'commander';
import { Option } from 'commander';
import { ApiProblem } from '../../client/index.js';
import type { Client } from '../../client/index.js';
import { unitsFormat } from '../../core/amount/index.js';
import {
  SHEET_NAMES,
  assetFlow,
  csvRead,
  csvWrite,
  documentEdit,
  moneyRows,
  usesOf,
} from '../../core/catalog/index.js';
import type { AssetFlow, Edit, Edited, MoneyRow, SheetName, ThingKind, Use } from '../../core/catalog/index.js';
import {
  documentChanges,
  documentValidate,
  economyCompile,
  folderWrite,
  issueBlocksSaving,
  moneyText,
} from '../../core/economy/index.js';
import type { AssetLabels, Economy, EconomyDocument } from '../../core/economy/index.js';
import { issueFinding } from '../../core/audit/index.js';
import { pointerOf } from '../../core/issue/index.js';
import { boxOdds, lootOdds } from '../../core/loot/index.js';
import type { LootOdds } from '../../core/loot/index.js';
import { playerMadeUp, playerScope } from '../../core/player/index.js';
import type { EditAnswer } from '../../core/wire/index.js';
import { Found, UsageProblem, clientOf, wantsJson } from '../context.js';
import { folderFiles, folderLoad, folderPictures, folderSave, picturesFolder } from '../folder.js';
import { colors, countText, documentLabels, print, printFindings, printJson, printTable } from '../output.js';
import { collect, parseBasket, parseFields, parseOverrides } from '../parse.js';
import { serviceEconomy } from '../source.js';

// --- changing the draft or a folder

interface ChangeOptions {
  folder?: string;
  preview?: boolean;
}
const withChange = (command: Command): Command =>
  command
    .option('--folder <folder>', 'change an economy folder instead of the draft')
    .option('--preview', 'show what would change, and save nothing');

type Shown = Pick<EditAnswer, 'changes' | 'notes'> & { revision: number | null; written?: string[] };

/** Brings a folder to `edited`, or says why not. */
function changeFolder(
  folder: string,
  preview: boolean | undefined,
  edit: (document: EconomyDocument) => Edited,
): Shown {
  const { document, placeOf } = folderLoad(folder);
  const edited = edit(document);
  if (!edited.ok) {
    printFindings(edited.issues.map((issue) => issueFinding({ ...issue, place: placeOf(issue.pointer) })));
    throw new Found(`${countText(edited.issues.length, 'problem')}; nothing was changed`);
  }
  const checked = documentValidate(edited.document);
  const issues = checked.ok ? economyCompile(edited.document).issues.filter(issueBlocksSaving) : checked.issues;
  if (issues.length > 0) {
    printFindings(issues.map(issueFinding));
    throw new Found(`${countText(issues.length, 'problem')}; nothing was changed`);
  }
  const written = preview ? [] : folderSave(folderWrite(folderFiles(folder), edited.document));
  return { changes: documentChanges(document, edited.document), notes: edited.notes, revision: null, written };
}

async function changeDraft(
  client: Client,
  preview: boolean | undefined,
  edit: (revision: number | undefined) => Promise<EditAnswer>,
): Promise<Shown> {
  const revision = preview ? undefined : (await client.draft()).revision;
  const { changes, notes, saved } = await edit(revision).catch((error: unknown) => {
    if (error instanceof ApiProblem && error.body.errors)
      for (const { pointer, detail, fix } of error.body.errors) print(`${colors.red(pointer)}: ${detail}. ${fix}`);
    throw error;
  });
  return { changes, notes, revision: saved?.revision ?? null };
}

function printShown(shown: Shown, preview: boolean | undefined, command: Command): void {
  if (wantsJson(command)) {
    printJson(shown);
    return;
  }
  for (const { words } of shown.changes) print(words);
  for (const note of shown.notes) print(colors.dim(note));
  const count = countText(shown.changes.length, 'change');
  if (preview) print(`${count}; nothing was saved.`);
  else if (shown.revision !== null) print(`Draft revision ${shown.revision} saved: ${count}.`);
  else print(`${count}${shown.written?.length ? `; written: ${shown.written.join(', ')}` : '; nothing to write'}.`);
}

async function runEdit(edit: Edit, { folder, preview }: ChangeOptions, command: Command): Promise<void> {
  const shown =
    folder === undefined
      ? await changeDraft(clientOf(command), preview, (revision) => clientOf(command).edit(edit, revision))
      : changeFolder(folder, preview, (document) => documentEdit(document, edit));
  printShown(shown, preview, command);
}

/** The draft's document, or a folder's. */
async function documentFrom(folder: string | undefined, command: Command): Promise<EconomyDocument> {
  return folder === undefined ? (await clientOf(command).draft()).document : folderLoad(folder).document;
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

// --- CSV

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
        folder === undefined ? await clientOf(command).sheet(name) : csvWrite(folderLoad(folder).document, name);
      if (out === undefined) process.stdout.write(text);
      else writeFileSync(out, text);
    });
  withChange(
    csv.command('import <sheet> <file>').description('bring CSV rows in; what they do not mention stays'),
  ).action(async (sheet: string, file: string, { folder, preview }: ChangeOptions, command: Command) => {
    const name = sheetArgument(sheet);
    if (!existsSync(file)) throw new UsageProblem(`There is no file "${file}".`);
    const text = readFileSync(file, 'utf8');
    const client = clientOf(command);
    const shown =
      folder === undefined
        ? await changeDraft(client, preview, (revision) => client.importSheet(name, text, revision))
        : changeFolder(folder, preview, (document) => csvEdited(document, name, text, file));
    printShown(shown, preview, command);
  });
}

function csvEdited(document: EconomyDocument, sheet: SheetName, text: string, file: string): Edited {
  const read = csvRead(document, sheet, text);
  if (read.ok)
    return { ok: true, document: read.document, notes: [`${read.rows} rows read, ${read.added} of them new`] };
  for (const { line, column, message } of read.problems)
    print(`${colors.red(`${file}:${line}`)}${column ? ` ${column}` : ''}: ${message}`);
  throw new Found(`${countText(read.problems.length, 'problem')} in ${file}; nothing was changed`);
}

// --- looking

interface OddsOptions {
  folder?: string;
  source?: string;
  player?: string;
  attribute?: string[];
  holds?: string[];
  set?: string[];
}

function folderOdds(folder: string, id: string, options: OddsOptions): { odds: LootOdds; labels: AssetLabels } {
  const { document } = folderLoad(folder);
  const economy: Economy = economyCompile(document).economy;
  const labels = documentLabels(document);
  const profile = { attributes: parseFields(options.attribute ?? []), holds: parseBasket(options.holds ?? [], labels) };
  const scope = playerScope(economy, playerMadeUp(economy, profile, 0), 0);
  const table = economy.loot.get(id);
  const box = economy.items.get(id);
  if (!table && box?.kind !== 'box') throw new UsageProblem(`There is no loot table or box "${id}".`);
  return { odds: table ? lootOdds(economy, table, scope) : boxOdds(economy, box!, scope), labels };
}

const percent = (share: number): string => `${Number((share * 100).toPrecision(5))}%`;

function printOdds(odds: LootOdds, labels: AssetLabels): void {
  const { from, to } = odds.rolls;
  print(
    `${colors.bold(odds.name)}: ${from === to ? countText(from, 'roll') : `${from} to ${to} rolls`} an opening; nothing at all: ${percent(odds.nothing)}`,
  );
  if (odds.guarantee)
    print(
      `${odds.guarantee.entry} comes at the latest in opening ${odds.guarantee.within} without it; "long run" counts that`,
    );
  const expected = (asset: string, units: number) => {
    const decimals = labels(asset)?.decimals ?? 0;
    return decimals === 0 ? Number(units.toPrecision(5)) : unitsFormat(Math.round(units), decimals);
  };
  printTable(
    ['asset', 'chance', 'expected', 'long run', 'expected', 'openings: 50%', '90%', '99%'],
    odds.assets.map(({ asset, chance, expected: mean, longRunChance, longRunExpected, openings }) => [
      labels(asset)?.name ?? asset,
      percent(chance),
      expected(asset, mean),
      percent(longRunChance),
      expected(asset, longRunExpected),
      openings.half ?? 'never',
      openings.nine ?? 'never',
      openings.most ?? 'never',
    ]),
  );
}

function addLookCommands(program: Command): void {
  program
    .command('odds <table>')
    .description('the exact odds of a loot table or box, and how many openings players need')
    .option('--folder <folder>', 'of an economy folder, without a service')
    .option('--source <source>', 'draft, a channel or a release number', 'draft')
    .option('--player <id>', 'for a real player, whose conditions count')
    .option('--attribute <name=value>', 'of a made-up player', collect)
    .option('--holds <asset=amount>', 'what a made-up player has', collect)
    .option('--set <pointer=value>', 'with another weight, such as /loot/tide_finds/entries/rare/weight=30', collect)
    .action(async (id: string, options: OddsOptions, command: Command) => {
      const { odds, labels } =
        options.folder === undefined
          ? await serviceOdds(id, options, command)
          : folderOdds(options.folder, id, options);
      if (wantsJson(command)) printJson(odds);
      else printOdds(odds, labels);
    });

  program
    .command('where <kind> <id>')
    .description('where a thing is used: asset, group, loot, offer, event, attribute, store, activity or persona')
    .option('--folder <folder>', 'in an economy folder instead of the draft')
    .action(async (kind: ThingKind, id: string, { folder }: { folder?: string }, command: Command) => {
      const uses: Use[] =
        folder === undefined
          ? (await clientOf(command).uses(kind, id)).items
          : usesOf(folderLoad(folder).document, { kind, id });
      if (wantsJson(command)) printJson(uses);
      else if (uses.length === 0) print('It is used nowhere.');
      else for (const { words, pointer } of uses) print(`${words}  ${colors.dim(pointer)}`);
    });

  program
    .command('money')
    .description('real-money prices: gross, tax, what the store keeps, net')
    .option('--folder <folder>', 'of an economy folder, without a service')
    .option('--source <source>', 'draft, a channel or a release number', 'draft')
    .action(async ({ folder, source }: { folder?: string; source: string }, command: Command) => {
      const rows =
        folder === undefined
          ? (await clientOf(command).money(source)).items
          : moneyRows(economyCompile(folderLoad(folder).document).economy);
      if (wantsJson(command)) printJson(rows);
      else if (rows.length === 0) print('Nothing is sold for real money.');
      else printMoney(rows);
    });

  program
    .command('flow <asset>')
    .description('where a currency or item comes from, where it goes, what it buys')
    .option('--folder <folder>', 'of an economy folder, without a service')
    .option('--source <source>', 'draft, a channel or a release number', 'draft')
    .action(async (asset: string, { folder, source }: { folder?: string; source: string }, command: Command) => {
      const flow =
        folder === undefined
          ? await clientOf(command).flow(asset, source)
          : assetFlow(economyCompile(folderLoad(folder).document).economy, asset);
      if (wantsJson(command)) printJson(flow);
      else printFlow(flow);
    });
}

function printMoney(rows: readonly MoneyRow[]): void {
  printTable(
    ['offer', 'store', 'product', 'gross', 'tax', 'store keeps', 'net'],
    rows.map(({ offer, store, product, code, gross, tax, fee, net }) => [
      offer,
      store ?? 'none',
      product ?? '',
      ...[gross, tax, fee, net].map((units) => moneyText(code, units)),
    ]),
  );
}

function printFlow({ name, sources, sinks, buys }: AssetFlow): void {
  for (const [title, lines] of [
    [`${name} comes from`, sources],
    ['goes to', sinks],
    ['buys', buys],
  ] as const) {
    print(`${colors.bold(title)}${lines.length === 0 ? ': nothing' : ''}`);
    for (const line of lines) print(`  ${line.name}: ${line.words}`);
  }
}

async function serviceOdds(
  id: string,
  options: OddsOptions,
  command: Command,
): Promise<{ odds: LootOdds; labels: AssetLabels }> {
  const client = clientOf(command);
  const source = options.source ?? 'draft';
  const { labels } = await serviceEconomy(client, source);
  const profile = { attributes: parseFields(options.attribute ?? []), holds: parseBasket(options.holds ?? [], labels) };
  const odds = await client.odds({
    id,
    source,
    ...(options.player === undefined ? { profile } : { player: options.player }),
    ...(options.set ? { set: parseOverrides(options.set) } : {}),
  });
  return { odds, labels };
}

// --- pictures and silences

const TYPES: Readonly<Record<string, string>> = {
  '.png': 'image/png',
  '.jpg': 'image/jpeg',
  '.jpeg': 'image/jpeg',
  '.gif': 'image/gif',
  '.webp': 'image/webp',
  '.svg': 'image/svg+xml',
};

export async function pictureUpload(client: Client, file: string): Promise<string> {
  const bytes = readFileSync(file);
  const type = TYPES[extname(file).toLowerCase()] ?? 'application/octet-stream';
  const content = bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength) as ArrayBuffer;
  return (await client.savePicture(basename(file), type, content)).name;
}

/** Sends the folder's pictures that the service does not have yet, or has otherwise. */
export async function picturesPush(client: Client, folder: string): Promise<string[]> {
  const known = new Map((await client.pictures()).items.map(({ name, hash }) => [name, hash]));
  const { createHash } = await import('node:crypto');
  const sent: string[] = [];
  for (const name of [...folderPictures(folder)].sort()) {
    const file = join(picturesFolder(folder), name);
    const hash = createHash('sha256').update(readFileSync(file)).digest('hex').slice(0, 32);
    if (known.get(name) !== hash) sent.push(await pictureUpload(client, file));
  }
  return sent;
}

/** Brings the service's pictures into the folder. */
export async function picturesPull(client: Client, folder: string): Promise<string[]> {
  const written: string[] = [];
  for (const { name } of (await client.pictures()).items) {
    const bytes = Buffer.from(await client.picture(name));
    const file = join(picturesFolder(folder), name);
    if (existsSync(file) && readFileSync(file).equals(bytes)) continue;
    mkdirSync(picturesFolder(folder), { recursive: true });
    writeFileSync(file, bytes);
    written.push(file);
  }
  return written;
}

function addPictureCommands(program: Command): void {
  const picture = program.command('picture').description('icon pictures: PNG, JPEG, WebP or GIF of at most 512 kB');
  picture
    .command('put <file>')
    .description('upload a picture; name it in an icon as pictures/FILE')
    .action(async (file: string, _options: object, command: Command) => {
      if (!existsSync(file)) throw new UsageProblem(`There is no file "${file}".`);
      const name = await pictureUpload(clientOf(command), file);
      if (wantsJson(command)) printJson({ name });
      else print(`Uploaded: write icon: pictures/${name}`);
    });
  picture
    .command('list')
    .description('the pictures that there are')
    .action(async (_options: object, command: Command) => {
      const { items } = await clientOf(command).pictures();
      if (wantsJson(command)) printJson(items);
      else if (items.length === 0) print('There are no pictures yet.');
      else
        printTable(
          ['picture', 'type', 'saved by'],
          items.map(({ name, type, savedBy }) => [name, type, savedBy]),
        );
    });
  picture
    .command('remove <name>')
    .description('remove a picture')
    .action(async (name: string, _options: object, command: Command) => {
      await clientOf(command).removePicture(name);
      if (!wantsJson(command)) print(`Removed ${name}.`);
    });
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
  addLookCommands(program);
  addEditCommands(program);
  addCsvCommands(program);
  addPictureCommands(program);
}
