/** How the command line prints: tables on a terminal, plain aligned text when piped, JSON when asked. */
import cliProgress from 'cli-progress';
import CliTable from 'cli-table3';
import type { Finding, Severity } from '../core/audit/index.js';
import { isNumeric } from '../core/report/page.js';
import { amountText } from '../core/texts/amounts.js';
import type { AssetLabels } from '../core/texts/index.js';
import { CommandRefused } from './context.js';
import { colors, print } from './print.js';

type Cell = string | number;

const BARE = {
  top: '',
  'top-mid': '',
  'top-left': '',
  'top-right': '',
  bottom: '',
  'bottom-mid': '',
  'bottom-left': '',
  'bottom-right': '',
  left: '',
  'left-mid': '',
  mid: '',
  'mid-mid': '',
  right: '',
  'right-mid': '',
  middle: '  ',
};

/** Numbers stand to the right. Only a terminal gets the rule under the head and its colour. */
export function printTable(head: readonly string[], rows: readonly (readonly Cell[])[]): void {
  if (rows.length === 0) return;
  const aligns = head.map((_, column) => {
    return isNumeric(rows.map((row) => row[column]!)) ? ('right' as const) : ('left' as const);
  });
  const table = new CliTable({
    head: head.map((title) => colors.bold(title)),
    chars: BARE,
    colAligns: aligns,
    style: { head: [], border: [], 'padding-left': 0, 'padding-right': 0 },
  });
  table.push(...rows.map((row) => row.map(String)));
  print(
    table
      .toString()
      .split('\n')
      .map((line) => line.trimEnd())
      .join('\n'),
    { kind: 'table', head, rows },
  );
}

const SEVERITY: Record<Severity, (text: string) => string> = {
  error: colors.red,
  warning: colors.yellow,
  hint: colors.blue,
};

/** One finding on two lines: what and where, then the way out. */
export function printFindings(findings: readonly Finding[]): void {
  for (const { severity, code, subject, message, fix, place, pointer } of findings) {
    print(`${SEVERITY[severity](severity)} ${code}: ${colors.bold(subject)}: ${message}`);
    print(`  ${place ? `${place.file}:${place.line}:${place.column}` : pointer}  ${fix}`);
  }
}

/** A refusal with what stands against it. */
export const refusedFor = (message: string, findings: readonly Finding[]): CommandRefused =>
  new CommandRefused(message, { json: { findings }, print: () => printFindings(findings) });

export const holdingsText = (labels: AssetLabels, holdings: Readonly<Record<string, number>>): string =>
  Object.entries(holdings)
    .map(([asset, units]) => amountText(labels, asset, units))
    .join(', ') || 'nothing';

/** After how long a run says how long it will take where there is no terminal, and how long that must be. */
const TOLD_MS = 10_000;
const LONG_MS = 120_000;

/** A progress bar on stderr once the work has taken a second; where that is no terminal, one line if it will take long. */
export function progressBar(
  title: string,
  nowMs: () => number,
  unit = 'days',
): { update(done: number, of: number, more?: string): void; stop(): void } {
  const startMs = nowMs();
  let bar: cliProgress.SingleBar | undefined;
  let isTold = false;
  return {
    update: (done, of, more = '') => {
      if (!bar && process.stderr.isTTY && nowMs() - startMs > 1000) {
        bar = new cliProgress.SingleBar(
          {
            format: `${title} {bar} {value}/{total} ${unit}, {eta_formatted} to go  {more}`,
            // A day may be done in part.
            formatValue: (value, _, type) => String(type === 'value' ? Math.floor(value) : value),
            stream: process.stderr,
            hideCursor: true,
          },
          cliProgress.Presets.shades_classic,
        );
        bar.start(of, done, { more });
      }
      bar?.setTotal(of);
      bar?.update(done, { more });
      const passedMs = nowMs() - startMs;
      if (isTold || process.stderr.isTTY || passedMs < TOLD_MS || done === 0) return;
      isTold = true;
      const leftMs = (passedMs * (of - done)) / done;
      if (leftMs > LONG_MS)
        process.stderr.write(`${title}: about ${Math.round(leftMs / 60_000)} minutes to go. Ctrl+C ends it.\n`);
    },
    stop: () => bar?.stop(),
  };
}
