/** A report as one HTML file: nothing in it is loaded from elsewhere, so it opens anywhere and can be kept. */
import { instantText } from '../texts/index.js';
import { Html, piece } from './html.js';

export type ReportBlock =
  | { kind: 'heading'; text: string; more?: string | undefined }
  | { kind: 'text'; text: string }
  | { kind: 'table'; head: readonly string[]; rows: readonly (readonly (string | number)[])[] }
  | { kind: 'chart'; title: string; picture: Html };

/** What a report is of, when it was made and by what; of saved results the economy is not known. */
export interface ReportAbout {
  /** With where it is from: `revision 12 of the draft`. */
  economy?: { name: string; zone: string; from: string };
  seed?: number;
  madeMs: number;
  version: string;
}

function aboutText({ economy, seed, madeMs, version }: ReportAbout): string {
  const of = [...(economy ? [economy.name, economy.from] : []), ...(seed === undefined ? [] : [`seed ${seed}`])];
  const made = `made on ${instantText(economy?.zone ?? 'UTC', madeMs)} by Dime Stall ${version}`;
  return `${[...of, made].join('; ')}.`;
}

/** The same arguments give the same bytes. */
export const reportPage = (title: string, about: ReportAbout, blocks: readonly ReportBlock[]): string =>
  piece`<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="color-scheme" content="light dark">
<title>${about.economy ? `${title}: ${about.economy.name}, ${about.economy.from}` : title}</title>
<style>${new Html(STYLE)}</style>
</head>
<body>
<main>
<h1>${title}</h1>
<p><small>${aboutText(about)}</small></p>
${grouped(blocks)}</main>
</body>
</html>
`.markup;

/** Charts that follow each other stand in rows. */
function grouped(blocks: readonly ReportBlock[]): Html[] {
  const shown: Html[] = [];
  let charts: Html[] = [];
  const row = (): void => {
    if (charts.length > 0) shown.push(piece`<div class="charts">\n${charts}</div>\n`);
    charts = [];
  };
  for (const block of blocks) {
    if (block.kind === 'chart')
      charts.push(piece`<figure><figcaption>${block.title}</figcaption>${block.picture}</figure>\n`);
    else {
      row();
      shown.push(blockShown(block));
    }
  }
  row();
  return shown;
}

function blockShown(block: Exclude<ReportBlock, { kind: 'chart' }>): Html {
  if (block.kind === 'heading')
    return piece`<h2>${block.text}${block.more === undefined ? '' : piece` <small>${block.more}</small>`}</h2>\n`;
  if (block.kind === 'text') return piece`<p>${block.text}</p>\n`;
  const { head, rows } = block;
  const side = head.map((_, column) => new Html(isNumeric(rows.map((row) => row[column]!)) ? ' class="n"' : ''));
  const cells = (tag: Html, row: readonly (string | number)[]): Html[] =>
    row.map((cell, column) => piece`<${tag}${side[column]}>${cell}</${tag}>`);
  const body = rows.map((row) => piece`<tr>${cells(new Html('td'), row)}</tr>\n`);
  return piece`<div class="table"><table><thead><tr>${cells(new Html('th'), head)}</tr></thead><tbody>\n${body}</tbody></table></div>\n`;
}

/** Numbers with a word or two behind them stand to the right. */
export const isNumeric = (cells: readonly (string | number)[]): boolean =>
  cells.every((cell) => /^-?[\d.,%]*( .{0,24})?$/.test(String(cell))) && cells.some((cell) => /\d/.test(String(cell)));

const STYLE = `
:root { --paper: #f5eedf; --sheet: #fdf9f0; --line: #d8c9aa; --ink: #2b2118; --soft: #65543f;
  --s0: #1d6a5f; --s1: #b4532a; --s2: #6b4f9e; --s3: #2f6c9e; --s4: #8a6410; --s5: #93406b; --s6: #65543f; --s7: #9a8a70; }
@media (prefers-color-scheme: dark) {
  :root { --paper: #1b1713; --sheet: #26201a; --line: #463b2e; --ink: #f3e8d3; --soft: #bfae92;
    --s0: #76c8b6; --s1: #e99062; --s2: #b39ae0; --s3: #85b9e4; --s4: #e3bd5c; --s5: #e093b8; --s6: #bfae92; --s7: #8d7d66; }
}
* { box-sizing: border-box; }
body { margin: 0; background: var(--paper); color: var(--ink); font: 15px/1.45 system-ui, sans-serif; }
main { max-width: 1200px; margin: 0 auto; padding: 16px 20px 40px; }
h1 { font-size: 26px; margin: 8px 0 12px; }
h2 { font-size: 18px; margin: 26px 0 6px; }
small { font-weight: normal; font-size: 13px; color: var(--soft); }
p { margin: 4px 0; white-space: pre-wrap; }
.charts { display: grid; grid-template-columns: repeat(auto-fill, minmax(370px, 1fr)); gap: 10px; margin: 10px 0; }
figure { margin: 0; padding: 8px 10px; background: var(--sheet); border: 1px solid var(--line); border-radius: 6px; }
figcaption { font-weight: 600; margin-bottom: 4px; }
svg { display: block; width: 100%; height: auto; }
svg text { font: 11px system-ui, sans-serif; fill: var(--soft); }
.table { overflow-x: auto; }
table { border-collapse: collapse; background: var(--sheet); font-size: 14px; }
th, td { padding: 3px 10px; text-align: left; vertical-align: top; border-bottom: 1px solid var(--line); }
th { color: var(--soft); font-size: 13px; }
.n { text-align: right; font-variant-numeric: tabular-nums; }
@media print { body { background: none; } figure, tr { break-inside: avoid; } }
`;
