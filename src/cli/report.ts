/** `--report FILE`: what a command prints, with pictures, as one HTML file. */
import { writeFileSync } from 'node:fs';
import { stripVTControlCharacters } from 'node:util';
import type { Command } from 'commander';
import { reportPage } from '../core/report/index.js';
import type { ReportAbout, ReportBlock } from '../core/report/index.js';
import { packageVersion } from '../packageRoot.js';
import { UsageProblem } from './context.js';
import { keepPrinted, printedKept } from './print.js';
import type { Printed } from './print.js';

export const withReport = (command: Command): Command =>
  command.option('--report <file>', 'save what is printed, with pictures, as one HTML file');

/** The report that is being made, while a command runs that was asked for one. */
let going: { file: string; title: string; about: ReportAbout; charts: ReportBlock[] } | undefined;

export function reportBegin(file: string, title: string, isJson: boolean, madeMs: number): void {
  if (isJson) throw new UsageProblem('A report holds what is printed: leave --json or --report out.');
  going = { file, title, about: { madeMs, version: packageVersion() }, charts: [] };
  keepPrinted();
}

/** Pictures for the report; they are made only where there is one. */
export const pictures = (make: () => readonly ReportBlock[]): void => {
  going?.charts.push(...make());
};

/** What the report is of, as soon as that is known. */
export const reportOf = (about: Partial<Pick<ReportAbout, 'economy' | 'seed'>>): void => {
  if (going) Object.assign(going.about, about);
};

/** Nothing is reported of what did not come about. */
export function reportDrop(): void {
  printedKept();
  going = undefined;
}

/** Saves what was printed, if a report was asked for. What a command refused is the first thing that it says. */
export function reportSave(refusal?: string): void {
  const printed = (printedKept() ?? []).flatMap(blockOf);
  if (!going) return;
  const { file, title, about, charts } = going;
  going = undefined;
  // Pictures come after what a run says of itself and its targets.
  const first = printed.findIndex(({ kind }) => kind === 'table') + 1;
  const begun: ReportBlock[] = refusal === undefined ? [] : [{ kind: 'text', text: refusal }];
  const blocks = [...begun, ...printed.slice(0, first), ...charts, ...printed.slice(first)];
  try {
    writeFileSync(file, reportPage(title, about, blocks));
  } catch (error) {
    throw Object.assign(error as Error, { path: file });
  }
}

function blockOf(printed: Printed): ReportBlock[] {
  if (printed.kind !== 'line')
    return [printed.kind === 'table' ? { ...printed, rows: printed.rows.map(plainRow) } : printed];
  const text = stripVTControlCharacters(printed.text).trim();
  return text === '' ? [] : [{ kind: 'text', text }];
}

const plainRow = (row: readonly (string | number)[]): (string | number)[] =>
  row.map((cell) => (typeof cell === 'string' ? stripVTControlCharacters(cell) : cell));
