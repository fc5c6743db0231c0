/** fit: personas from an event log, and how well they replay players of it that they were not fitted to. */
import { writeFileSync } from 'node:fs';
import type { Command } from 'commander';
import { countText } from '../../core/issue/index.js';
import {
  FitProblem,
  apartWords,
  drawRows,
  figureRows,
  fitPersonas,
  fitThings,
  heldWords,
} from '../../core/fit/index.js';
import type { FigureRow, FitResult } from '../../core/fit/index.js';
import { logRead } from '../../core/log/index.js';
import { RunStopped } from '../../core/simulation/index.js';
import { edited, printShown } from '../changing.js';
import { CommandRefused, UsageProblem, wantsJson } from '../context.js';
import { logText, wholeLog } from '../logFile.js';
import { withReport } from '../report.js';
import { documentReported } from '../reported.js';
import { printTable, progressBar } from '../output.js';
import { parseNumber } from '../parse.js';
import { colors, print, printJson } from '../print.js';

interface FitOptions {
  folder?: string;
  source: string;
  by?: string;
  groups?: number;
  gap?: number;
  seed?: number;
  skipBroken?: boolean;
  out?: string;
  take?: boolean;
}

export function addFitCommand(program: Command): void {
  withReport(
    program
      .command('fit <log>')
      .description(
        'personas from an event log (CSV or NDJSON, packed or not), and how well they tell players who were held out',
      ),
  )
    .option('--folder <folder>', 'for an economy folder, without a service')
    .option('--source <source>', 'for the draft, a channel or a release number', 'draft')
    .option('--by <attribute>', 'a persona for each value of this attribute; otherwise by how they play')
    .option('--groups <n>', 'how many kinds of players to look for; otherwise as many as are apart', parseNumber(1, 12))
    .option(
      '--gap <minutes>',
      'lines further apart begin another session, where the log has no column "session"; 30',
      parseNumber(1, 1440),
    )
    .option('--seed <n>', 'for the luck: who is held out, and how made-up players play', parseNumber(0, 4_294_967_295))
    .option('--skip-broken', 'leave out lines that cannot be read; otherwise nothing is fitted')
    .option('--out <file>', 'save everything as JSON')
    .option('--take', 'put the personas, what they play and a scenario into the draft or the folder')
    .action(async (log: string, options: FitOptions, command: Command) => {
      const { folder, source, by, groups, gap, seed, skipBroken = false, out, take } = options;
      if (take && folder === undefined && source !== 'draft')
        throw new UsageProblem(`Only the draft can be changed, and this would be of ${source}.`);
      if (by !== undefined && groups !== undefined)
        throw new UsageProblem('Groups are by an attribute or found: leave --by or --groups out.');
      const document = await documentReported(options, command);
      if (by !== undefined && !Object.hasOwn(document.attributes ?? {}, by))
        throw new UsageProblem(
          `There is no attribute "${by}". Attributes: ${Object.keys(document.attributes ?? {}).join(', ') || 'none yet'}.`,
        );
      const read = wholeLog(log, logRead(logText(log), document), skipBroken);
      const result = fitted(log, () =>
        withBar((onProgress) =>
          fitPersonas({
            document,
            log: read,
            onProgress,
            ...(by === undefined ? {} : { by }),
            ...(groups === undefined ? {} : { groups }),
            ...(gap === undefined ? {} : { gapMinutes: gap }),
            ...(seed === undefined ? {} : { seed }),
          }),
        ),
      );
      if (out !== undefined) writeFileSync(out, `${JSON.stringify(result, null, 2)}\n`);
      const isJson = wantsJson(command);
      if (!isJson) printFit(result, read.broken.length);
      const shown = take
        ? await edited(
            { kind: 'put', things: fitThings(result) },
            { ...(folder === undefined ? {} : { folder }) },
            command,
            `fitted to ${log}`,
          )
        : undefined;
      if (isJson) printJson({ ...result, skipped: read.broken.length, ...(shown ? { saved: shown } : {}) });
      else if (shown) printShown(shown, false, command);
      else print('\nNothing was saved; --take puts the personas, what they play and the scenario "fitted" into it.');
    });
}

function fitted(log: string, fit: () => FitResult): FitResult {
  try {
    return fit();
  } catch (error) {
    const isTold = error instanceof FitProblem || error instanceof RunStopped;
    throw isTold ? new CommandRefused(`${log}: ${error.message}`) : error;
  }
}

function withBar<T>(run: (onProgress: (done: number, of: number) => void) => T): T {
  const bar = progressBar('Fitting', Date.now, 'runs');
  try {
    return run(bar.update);
  } finally {
    bar.stop();
  }
}

function printFit(result: FitResult, skipped: number): void {
  const { players, events, purchases, days, groups } = result;
  print(
    `${countText(players, 'player')}, ${countText(events, 'event')} and ${countText(purchases, 'purchase')} in ${countText(days, 'day')}${skipped > 0 ? `; ${countText(skipped, 'line')} left out` : ''}.`,
  );
  print(`${countText(groups.length, 'group')}${apartWords(result)}.`);
  for (const group of groups) {
    print(`\n${colors.bold(group.name)} (${group.persona})`);
    print(group.description);
    const drawn = drawRows(group);
    if (drawn.length > 0)
      printTable(
        ['field', 'of', 'mean', 'deviation', 'drawn from'],
        drawn.map(({ field, of, mean, deviation, draw }) => [field, of, mean, deviation, draw]),
      );
    if (group.figures.length === 0) continue;
    print(`Against ${countText(group.heldOut, 'player')} held out: ${heldWords(group)}.`);
    printTable(
      ['figure', 'of', 'persona', 'held out', '95 %', ''],
      figureRows(group).map(({ figure, of, persona, heldOut, interval, verdict }) => [
        figure,
        of,
        persona,
        heldOut,
        interval,
        VERDICTS[verdict],
      ]),
    );
  }
  if (result.notes.length > 0) print('');
  for (const note of result.notes) print(colors.dim(note));
}

const VERDICTS: Readonly<Record<FigureRow['verdict'], string>> = {
  holds: colors.green('✓'),
  'too much': colors.yellow('↑ too much'),
  'too little': colors.yellow('↓ too little'),
};
