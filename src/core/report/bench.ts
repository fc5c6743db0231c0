/** What stands on the bench as a page: how each run stands to the targets, charts of all of them, and what differs. */
import type { EconomyDocument } from '../document/index.js';
import {
  MARK_SIGNS,
  METRIC_WORDS,
  distanceText,
  figureText,
  markText,
  simulationCompare,
  targetBounds,
  targetFigure,
  unplayedTexts,
} from '../simulation/index.js';
import type { Difference } from '../simulation/index.js';
import { runCharts } from './charts.js';
import type { NamedResult } from './charts.js';
import { reportPage } from './page.js';
import type { ReportAbout, ReportBlock } from './page.js';

/** The first run is the one in hand; what the others differ in is told against the one at `against`. `says`: what makes it what it is. */
export function benchReport(
  runs: readonly (NamedResult & { says?: string })[],
  against: number,
  targets: EconomyDocument['targets'],
  about: Omit<ReportAbout, 'seed'>,
): string {
  const [hand] = runs;
  if (!hand) throw new RangeError('a report needs a run');
  const { name, days, seed, personas } = hand.result;
  const players = personas.reduce((sum, one) => sum + one.players, 0);
  const base = runs[against];
  const others = runs.filter((one) => one !== base);
  const comparison =
    others.length > 0
      ? simulationCompare(
          base!.result,
          others.map(({ result }) => result),
        )
      : undefined;
  const told = comparison?.comparable ? comparison.differences.filter(({ distinguishable }) => distinguishable) : [];
  const blocks: ReportBlock[] = [
    {
      kind: 'text',
      text: `${players.toLocaleString('en')} players (${personas.map((one) => `${one.players.toLocaleString('en')} ${one.name}`).join(', ')}), ${days} days.`,
    },
    ...runs.flatMap(({ name: run, says }): ReportBlock[] =>
      says === undefined || says === '' ? [] : [{ kind: 'text', text: `${run}: ${says}` }],
    ),
    ...unplayedTexts(hand.result).map((text): ReportBlock => ({ kind: 'text', text: `Not played. ${text}` })),
    ...targetBlocks(runs),
    ...runCharts(runs, { targets, differences: told }),
    ...(others.length > 0
      ? differenceBlocks(
          base!.name,
          others.map((one) => one.name),
          told,
        )
      : []),
  ];
  return reportPage(name, { ...about, seed }, blocks);
}

function targetBlocks(runs: readonly NamedResult[]): ReportBlock[] {
  const rows = runs.flatMap(({ name, result }) =>
    result.targets.map((row) => [
      ...(runs.length > 1 ? [name] : []),
      `${MARK_SIGNS[row.mark]} ${markText(row)}`,
      row.name,
      targetBounds(row, result.currencies),
      targetFigure(row, result.currencies),
    ]),
  );
  if (rows.length === 0) return [];
  const head = [...(runs.length > 1 ? ['in'] : []), '', 'target', 'wanted', 'comes to'];
  return [
    { kind: 'heading', text: 'Targets', more: 'with 95% intervals' },
    { kind: 'table', head, rows },
  ];
}

function differenceBlocks(base: string, names: readonly string[], told: readonly Difference[]): ReportBlock[] {
  const heading: ReportBlock = {
    kind: 'heading',
    text: `Against ${base}`,
    more: 'paired differences by more than chance; the intervals hold together in 95 of 100 comparisons',
  };
  if (told.length === 0) return [heading, { kind: 'text', text: 'No difference can be told from chance.' }];
  return [
    heading,
    {
      kind: 'table',
      head: ['in', 'persona', 'figure', 'of', base, 'then', 'difference', 'from', 'to'],
      rows: told.map((one) => [
        names[one.variant]!,
        one.persona,
        METRIC_WORDS[one.metric],
        one.subject,
        figureText(one, one.before),
        figureText(one, one.after),
        distanceText(one, one.difference),
        distanceText(one, one.low),
        distanceText(one, one.high),
      ]),
    },
  ];
}
