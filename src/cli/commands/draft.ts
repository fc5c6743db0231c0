/** push, pull, audit, diff: from folder to draft. */
import { writeFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import type { Command } from 'commander';
import { countText } from '../../core/issue/index.js';
import { AUDIT_RULES, COMPILER_FINDINGS, documentMend, economyAudit, findingCounts } from '../../core/audit/index.js';
import type { Finding, FindingCounts } from '../../core/audit/index.js';
import { documentChanges, documentPatch, documentRenamed, economyFileJsonSchema } from '../../core/document/index.js';
import { folderRead, folderRename, folderWrite } from '../../core/files/index.js';
import type { Change, EconomyDocument } from '../../core/document/index.js';
import { printPublished, publishOrList } from './release.js';
import { picturesPull, picturesPush } from './picture.js';
import { CommandRefused, UsageProblem, clientOf, wantsJson } from '../context.js';
import { folderFiles, folderLoad, folderPictures, folderPresent, folderSave } from '../folder.js';
import { printFindings, printTable } from '../output.js';
import { parseNumber } from '../parse.js';
import { print, printJson } from '../print.js';

const countsText = ({ error, warning, hint }: FindingCounts): string =>
  [countText(error, 'error'), countText(warning, 'warning'), countText(hint, 'hint')].join(', ');

function printChanges(changes: readonly Change[], against: string): void {
  if (changes.length === 0) print(`Nothing differs from ${against}.`);
  else for (const { words } of changes) print(words);
}

export function addDraftCommands(program: Command): void {
  program
    .command('push <folder>')
    .description('save an economy folder as the draft')
    .option('--why <text>', 'a word on why', 'pushed from files')
    .option(
      '--from <revision>',
      'the draft revision that the folder was pulled from: refused if somebody has saved since',
      parseNumber(1, Number.MAX_SAFE_INTEGER),
    )
    .option('--publish <note>', 'publish it too, if the audit has no errors')
    .option('--channel <name>', 'which channel to publish on', 'live')
    .option('--at <instant>', 'from when on the channel points at it; at once by default')
    .action(async (folder: string, { why, from, publish, channel, at }: PushOptions, command: Command) => {
      const { document, placeOf } = folderLoad(folder);
      const client = clientOf(command);
      const draft = await client.call('GET /draft');
      const changed = documentChanges(draft.document, document).length;
      // Nothing to save makes no revision; an empty service takes even an empty folder.
      const same = draft.revision > 0 && bySection(draft.document) === bySection(document);
      const { revision } = draft;
      const save = () => client.call('PUT /draft', { body: document, revision: from ?? revision, query: { why } });
      // What will be refused is so before a picture is sent.
      if (!same && from !== undefined && from !== revision) await save();
      const pictures = await picturesPush(client, folder);
      const saved = same
        ? { ...draft, document: undefined, findings: findingCounts(economyAudit(document)) }
        : await save();
      const published =
        publish === undefined
          ? undefined
          : await publishOrList(
              client,
              { note: publish, channel, ...(at === undefined ? {} : { at }), revision: saved.revision },
              placeOf,
            );
      if (wantsJson(command)) {
        printJson({ ...saved, pictures, published: published ?? null });
        return;
      }
      print(
        `Draft revision ${saved.revision} ${same ? 'already holds this' : 'saved'}: ${countText(changed, 'change')}. Audit: ${countsText(saved.findings)}.`,
      );
      if (pictures.length > 0) print(`Pictures sent: ${pictures.join(', ')}.`);
      if (published) printPublished(published, document.timeZone);
    });

  program
    .command('pull <folder>')
    .description('bring a folder to the draft; comments and layout of files that are there stay')
    .action(async (folder: string, _options: object, command: Command) => {
      const { document, revision } = await clientOf(command).call('GET /draft');
      const present = folderPresent(folder).map(({ path, text }) => ({ path: relative(folder, path), text }));
      const written = folderSave(
        folderWrite(present, document).map(({ path, text }) => ({ path: join(folder, path), text })),
      );
      written.push(...(await picturesPull(clientOf(command), folder)));
      if (wantsJson(command)) printJson({ revision, written });
      else
        print(
          written.length === 0
            ? `${folder} already holds draft revision ${revision}.`
            : `Draft revision ${revision} is in ${folder}; written: ${written.join(', ')}.`,
        );
    });

  program
    .command('audit [folder]')
    .description('list what is wrong, of the draft or of a folder')
    .option('--folder <folder>', 'the same as naming the folder')
    .option('--all', 'hints that were silenced too, with the reason')
    .option('--mend', 'take every way out that is safe without asking')
    .option('--rules', 'list what the audit looks for, and why')
    .action(async (named: string | undefined, options: AuditFlags, command: Command) => {
      if (named !== undefined && options.folder !== undefined)
        throw new UsageProblem('Name one folder: alone, or with --folder.');
      const folder = named ?? options.folder;
      if (options.rules) {
        printRules(command);
        return;
      }
      if (options.mend) await mendAll(folder, command);
      const findings: Finding[] =
        folder === undefined ? (await clientOf(command).call('GET /draft/audit')).findings : auditFolder(folder);
      const counts = findingCounts(findings);
      const shown = findings.filter(({ silenced }) => options.all || silenced === undefined);
      if (wantsJson(command)) printJson({ counts, findings: shown });
      else {
        printFindings(shown);
        const silenced = findings.filter((finding) => finding.silenced !== undefined).length;
        print(
          `${shown.length === 0 ? 'Nothing found' : countsText(counts)}${silenced > 0 ? ` (${countText(silenced, 'hint')} silenced)` : ''}${shown.length === 0 ? '.' : ''}`,
        );
      }
      if (counts.error > 0) throw new CommandRefused('the audit has errors');
    });

  program
    .command('schema')
    .description('the JSON Schema of one file of an economy folder, for an editor')
    .option('--out <file>', 'save it there, outside of the folder')
    .action(({ out }: { out?: string }) => {
      const text = JSON.stringify(economyFileJsonSchema(), null, 2);
      if (out === undefined) print(text);
      else writeFileSync(out, `${text}\n`);
    });

  program
    .command('diff [folder] [other]')
    .description('what the draft changes against live; or a folder against live, or against another folder')
    .option('--patch', 'as RFC 6902 JSON Patch')
    .option('--against <source>', 'a channel or release number')
    .option('--at <instant>', 'when it is meant to come: the words then say so')
    .action(
      async (
        folder: string | undefined,
        other: string | undefined,
        options: { patch?: boolean; against?: string; at?: string },
        command: Command,
      ) => {
        const { changes, patch, against } = await differences(folder, other, options, command);
        if (options.patch) printJson(patch);
        else if (wantsJson(command)) printJson({ against, changes, patch });
        else printChanges(changes, against);
      },
    );
}

/** The order of sections is that of the files' names; that of their entries says something. */
const bySection = (document: EconomyDocument): string =>
  JSON.stringify(Object.entries(document).sort(([one], [other]) => (one < other ? -1 : 1)));

interface PushOptions {
  why: string;
  from?: number;
  publish?: string;
  channel: string;
  at?: string;
}

interface AuditFlags {
  folder?: string;
  all?: boolean;
  mend?: boolean;
  rules?: boolean;
}

function printRules(command: Command): void {
  const rules = [...COMPILER_FINDINGS, ...AUDIT_RULES].map(({ code, severity, help }) => ({ code, severity, help }));
  if (wantsJson(command)) printJson(rules);
  else
    printTable(
      ['code', 'severity', 'what it looks for'],
      rules.map(({ code, severity, help }) => [code, severity, help]),
    );
}

/** Takes safe ways out one after the other, since one may change the place of the next. */
async function mendAll(folder: string | undefined, command: Command): Promise<void> {
  const client = folder === undefined ? clientOf(command) : undefined;
  if (folder !== undefined) renameFields(folder, command);
  const before = client ? await client.call('GET /draft') : folderLoad(folder!);
  const { document, mended } = documentMend(before.document);
  if (client && 'revision' in before && mended.length > 0)
    await client.call('PUT /draft', { body: document, revision: before.revision, query: { why: 'audit: mended' } });
  else if (folder !== undefined) folderSave(folderWrite(folderFiles(folder), document));
  if (!wantsJson(command)) for (const line of mended) print(`mended ${line}`);
}

/** Fields that have another name now keep a folder from being read, so they come before everything else. */
function renameFields(folder: string, command: Command): void {
  const files = folderFiles(folder);
  const { raw, issues } = folderRead(files);
  const renamed = issues.length === 0 ? documentRenamed(raw) : undefined;
  if (!renamed || renamed.renamings.length === 0) return;
  folderSave(folderWrite(folderRename(files, renamed.renamings), renamed.document));
  if (wantsJson(command)) return;
  for (const { pointer, name } of renamed.renamings) print(`mended ${pointer}: it is called "${name}" now`);
}

function auditFolder(folder: string): Finding[] {
  const { document, placeOf } = folderLoad(folder);
  return economyAudit(document, { placeOf, pictures: folderPictures(folder) });
}

interface Differences {
  changes: Change[];
  patch: object[];
  against: string;
}

async function differences(
  folder: string | undefined,
  other: string | undefined,
  { against, at }: { against?: string; at?: string },
  command: Command,
): Promise<Differences> {
  if (folder === undefined) return clientOf(command).call('GET /draft/changes', { query: { against, at } });
  const { document } = folderLoad(folder);
  const base: { name: string; document: EconomyDocument } =
    other === undefined
      ? await publishedDocument(against, command)
      : { name: other, document: folderLoad(other).document };
  const [before, after] = other === undefined ? [base.document, document] : [document, base.document];
  return { changes: documentChanges(before, after), patch: documentPatch(before, after), against: base.name };
}

async function publishedDocument(
  against = 'live',
  command: Command,
): Promise<{ name: string; document: EconomyDocument }> {
  const source = { params: { source: against } };
  const { release, document } = await clientOf(command).call('GET /sources/{source}', source);
  return { name: release === null ? 'the draft' : `release ${release}`, document };
}
