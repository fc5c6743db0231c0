/** cases: plays every case of an economy, and tells what does not hold. */
import { writeFileSync } from 'node:fs';
import { basename, resolve } from 'node:path';
import type { Command } from 'commander';
import type { CaseView } from '../../contract/index.js';
import { casesJunit, casesRun } from '../../core/cases/index.js';
import type { CaseState } from '../../core/cases/index.js';
import { countText } from '../../core/issue/index.js';
import { caseLines } from '../../core/texts/rehearsed.js';
import { CommandRefused, clientOf, wantsJson } from '../context.js';
import { folderLoad } from '../folder.js';
import { colors, print, printJson } from '../print.js';

interface CasesOptions {
  source: string;
  junit?: string;
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
    .action(async (folder: string | undefined, options: CasesOptions, command: Command) => {
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
