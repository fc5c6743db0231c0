/** cases: plays every case of an economy, and tells what does not hold. */
import { writeFileSync } from 'node:fs';
import { basename, resolve } from 'node:path';
import type { Command } from 'commander';
import { Document } from 'yaml';
import type { Scalar, YAMLMap } from 'yaml';
import type { CaseView } from '../../contract/index.js';
import { casesJunit, casesProposed, casesRun } from '../../core/cases/index.js';
import type { CaseState, Proposal } from '../../core/cases/index.js';
import { countText } from '../../core/issue/index.js';
import { caseLines } from '../../core/texts/rehearsed.js';
import { instantAsked } from '../described.js';
import { CommandRefused, clientOf, wantsJson } from '../context.js';
import { folderLoad, notThere } from '../folder.js';
import { collect } from '../parse.js';
import { colors, complain, print, printJson } from '../print.js';

interface CasesOptions {
  source: string;
  junit?: string;
  propose?: string[];
  at?: string;
}

/** Of a folder nobody knows which save it was. */
interface Played {
  from: string;
  cases: CaseView[];
}

export function addCasesCommand(program: Command): void {
  program
    .command('cases [folder]')
    .description("play the cases of an economy folder, or of the service's draft, and tell what does not hold")
    .option('--source <source>', 'draft, a channel or a release number, without a folder', 'draft')
    .option('--junit <file>', 'save what came of them as JUnit XML')
    .option('--propose <offer>', 'print cases for an offer as it is now, as a file of the economy has them', collect)
    .option('--at <instant>', 'when the proposed ones begin; now by default')
    .action(async (folder: string | undefined, options: CasesOptions, command: Command) => {
      if (options.propose) {
        const proposed = folder === undefined ? await proposedByService(options, command) : proposedOn(folder, options);
        if (wantsJson(command)) printJson(proposed);
        else printProposed(proposed);
        const none = options.propose.filter((id) => !proposed.some(({ offer }) => offer === id));
        if (none.length > 0)
          complain(`For ${none.join(', ')} there is none: it is paid with real money, or nobody can buy it.`);
        return;
      }
      const { from, cases } = folder === undefined ? await onService(options, command) : onFolder(folder);
      if (options.junit !== undefined) writeFileSync(options.junit, casesJunit(from, cases));
      const failed = cases.filter(({ state }) => state !== 'holds');
      if (wantsJson(command)) printJson({ cases });
      else printCases(cases);
      if (failed.length > 0) throw new CommandRefused(summary(cases));
      if (!wantsJson(command)) print(summary(cases));
    });
}

async function onService({ source }: CasesOptions, command: Command): Promise<Played> {
  const { cases } = await clientOf(command).call('GET /cases', { query: { source } });
  return { from: source, cases };
}

function onFolder(folder: string): Played {
  const { document, economy } = folderLoad(folder);
  return { from: basename(resolve(folder)), cases: casesRun(economy, document) };
}

async function proposedByService({ propose: offers = [], at }: CasesOptions, command: Command): Promise<Proposal[]> {
  const body = { offers, ...(at === undefined ? {} : { at }) };
  return (await clientOf(command).call('POST /cases/proposals', { body })).items;
}

function proposedOn(folder: string, { propose: offers = [], at }: CasesOptions): Proposal[] {
  const { economy } = folderLoad(folder);
  const unknown = offers.find((id) => !economy.offers.has(id));
  if (unknown !== undefined) throw notThere('offer', unknown, economy.offers.keys());
  return casesProposed(economy, offers, instantAsked(economy.zone, at));
}

/** Each with a line on what it is, to be struck out where it is not meant. */
function printProposed(proposals: readonly Proposal[]): void {
  const document = new Document(
    { cases: Object.fromEntries(proposals.map(({ id, case: one }) => [id, one])) },
    { aliasDuplicateObjects: false },
  );
  for (const { id, lines } of proposals) {
    const { items } = document.get('cases') as YAMLMap<Scalar>;
    items.find(({ key }) => key.value === id)!.key.commentBefore = ` ${lines.join('; ')}`;
  }
  print(document.toString({ lineWidth: 0 }).trimEnd());
}

const STATES: Readonly<Record<CaseState, { mark: string; color(text: string): string }>> = {
  holds: { mark: '✓', color: colors.green },
  broken: { mark: '✗', color: colors.red },
  unplayable: { mark: '?', color: colors.yellow },
};

function printCases(cases: readonly CaseView[]): void {
  for (const one of cases) {
    const { mark, color } = STATES[one.state];
    print(`${color(mark)} ${one.name} ${colors.dim(one.id)}`);
    for (const line of caseLines(one)) print(`    ${line}`);
    if (!one.since) continue;
    const { revision, savedBy, why, before, now } = one.since;
    print(`    since revision ${revision} by ${savedBy}: ${why}`);
    if (before !== null && now !== null) print(`    before it: ${before}\n    now: ${now}`);
  }
}

function summary(cases: readonly CaseView[]): string {
  if (cases.length === 0) return 'There are no cases yet. A rehearsal can be kept as one.';
  const count = (state: CaseState): number => cases.filter((one) => one.state === state).length;
  const parts = [
    `${count('holds')} hold`,
    ...(count('broken') > 0 ? [`${count('broken')} broken`] : []),
    ...(count('unplayable') > 0 ? [`${count('unplayable')} cannot be played`] : []),
  ];
  return `${countText(cases.length, 'case')}: ${parts.join(', ')}.`;
}
