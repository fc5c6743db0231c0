/** Charts as SVG: days to the right, lines named at their ends, so that nothing has to be looked up in a legend. */
import { scaleBand, scaleLinear } from 'd3-scale';
import { area, curveStepAfter, line } from 'd3-shape';
import { element } from './html.js';
import type { Html } from './html.js';

const WIDTH = 380;
const HEIGHT = 190;
const TOP = 8;
const BOTTOM = HEIGHT - 20;
const LEFT = 44;
const RIGHT = WIDTH - 70;
/** Where the names of causes need more room. */
const NARROW = WIDTH - 130;
/** Labels at the ends of lines are at least so far apart. */
const APART = 12;

export interface LineDrawn {
  name: string;
  /** By day, from the first on; null where there is nothing. */
  values: readonly (number | null)[];
  /** Areas about it, the widest first: from and to by day. */
  bands?: readonly (readonly (readonly [number, number] | null)[])[];
}

const DASHES = [undefined, '7 3', '2 3', '8 3 2 3', '1 4', '10 4', '4 2', '6 2 1 2'];
const colour = (place: number): string => `var(--s${place % DASHES.length})`;

/** Of two colours that some eyes cannot tell apart, the second has stripes where it fills an area. */
const STRIPED = [2, 4, 5];
const texture = (place: number): string =>
  STRIPED.includes(place % DASHES.length) ? `url(#stripes${place % DASHES.length})` : colour(place);
const stripes = (): Html =>
  element(
    'defs',
    {},
    STRIPED.map((place) =>
      element(
        'pattern',
        {
          id: `stripes${place}`,
          width: 4,
          height: 4,
          patternUnits: 'userSpaceOnUse',
          patternTransform: 'rotate(45)',
        },
        [box(0, 0, 4, 4, colour(place)), box(0, 0, 1.3, 4, 'var(--sheet)')],
      ),
    ),
  );

const framed = (...inner: Html[]): Html =>
  element('svg', { viewBox: `0 0 ${WIDTH} ${HEIGHT}`, role: 'img', 'aria-hidden': 'true' }, inner);

const label = (x: number, y: number, words: string | number, more: Record<string, string> = {}): Html =>
  element('text', { x, y, ...more }, words);
const box = (x: number, y: number, width: number, height: number, fill: string, opacity?: string): Html =>
  element('rect', { x, y, width, height, fill, opacity });
const cut = (name: string, most: number): string => (name.length > most ? `${name.slice(0, most - 1)}…` : name);

const compact = new Intl.NumberFormat('en', { notation: 'compact', maximumFractionDigits: 1 });

interface Scale {
  (value: number): number;
  ticks(count: number): number[];
}

/** The amounts to the left, each with its line. */
const amounts = (y: Scale, right: number): Html[] =>
  y
    .ticks(4)
    .flatMap((tick) => [
      element('line', { x1: LEFT, x2: right, y1: y(tick), y2: y(tick), stroke: 'var(--line)' }),
      label(LEFT - 5, y(tick) + 4, compact.format(tick), { 'text-anchor': 'end' }),
    ]);

const dayBelow = (day: number, x: number): Html => label(x, HEIGHT - 5, day, { 'text-anchor': 'middle' });

/** Lines over the days of a run. `window`: days that are wanted. */
export function linesDrawn(
  lines: readonly LineDrawn[],
  days: number,
  more: { step?: boolean; window?: readonly [number, number] | undefined; most?: number } = {},
): Html {
  const all = lines.flatMap(({ values, bands = [] }) => [
    ...values.filter((value) => value !== null),
    ...bands.flat().flatMap((one) => one ?? []),
  ]);
  const x = scaleLinear([1, Math.max(2, days)], [LEFT, RIGHT]);
  const y = scaleLinear([Math.min(0, ...all), more.most ?? Math.max(1e-9, ...all)], [BOTTOM, TOP]).nice(4);
  const draw = line<number | null>()
    .digits(1)
    .defined((value) => value !== null)
    .x((_, day) => x(day + 1))
    .y((value) => y(value!));
  if (more.step) draw.curve(curveStepAfter);
  const fill = area<readonly [number, number] | null>()
    .digits(1)
    .defined((one) => one !== null)
    .x((_, day) => x(day + 1))
    .y0((one) => y(one![0]))
    .y1((one) => y(one![1]));
  return framed(
    ...wantedDays(more.window, days, x),
    ...amounts(y, RIGHT),
    ...x
      .ticks(5)
      .filter(Number.isInteger)
      .map((day) => dayBelow(day, x(day))),
    ...lines.flatMap(({ values, bands = [] }, place) => [
      ...bands.map((band) => element('path', { d: fill(band) ?? '', fill: colour(place), opacity: '0.16' })),
      element('path', {
        d: draw(values) ?? '',
        fill: 'none',
        stroke: colour(place),
        'stroke-width': place === 0 ? 2.2 : 1.7,
        'stroke-dasharray': DASHES[place % DASHES.length],
      }),
    ]),
    ...names(lines, x, y),
  );
}

function wantedDays(window: readonly [number, number] | undefined, days: number, x: Scale): Html[] {
  if (!window || window[0] > days) return [];
  const [from, to] = [x(Math.max(1, window[0])), x(Math.min(days, window[1]))];
  return [box(from, TOP, Math.max(2, to - from), BOTTOM - TOP, 'var(--s4)', '0.18')];
}

/** Each at the end of its line, moved down where it would lie over another. */
function names(lines: readonly LineDrawn[], x: Scale, y: Scale): Html[] {
  const ends = lines
    .map(({ name, values }, place) => {
      const at = values.findLastIndex((value) => value !== null);
      return { name, place, x: x(at + 1) + 5, y: at < 0 ? TOP : y(values[at]!) + 4 };
    })
    .sort((a, b) => a.y - b.y);
  ends.forEach((end, at) => {
    if (at > 0) end.y = Math.max(end.y, ends[at - 1]!.y + APART);
  });
  return ends.map((end) => label(end.x, end.y, cut(end.name, 12), { style: `fill:${colour(end.place)}` }));
}

/** Amounts by day and cause, what came in above the line and what went out below. */
export function stackDrawn(
  causes: readonly string[],
  rows: readonly { day: number; by: Readonly<Record<string, number>>; up: number; down: number }[],
): Html {
  const x = scaleBand(
    rows.map(({ day }) => day),
    [LEFT, NARROW],
  ).padding(0.15);
  const most = Math.max(1e-9, ...rows.map(({ up }) => up));
  const y = scaleLinear([Math.min(0, ...rows.map(({ down }) => down)), most], [BOTTOM, TOP]).nice(4);
  const every = Math.max(1, Math.ceil(rows.length / 6));
  return framed(
    stripes(),
    ...amounts(y, NARROW),
    ...rows.filter((_, at) => at % every === 0).map(({ day }) => dayBelow(day, x(day)! + x.bandwidth() / 2)),
    ...rows.flatMap(({ day, by }) => {
      let [up, down] = [0, 0];
      return causes.flatMap((cause, place) => {
        const units = by[cause] ?? 0;
        if (units === 0) return [];
        const from = units > 0 ? up : down;
        if (units > 0) up += units;
        else down += units;
        const [above, below] = [y(from), y(from + units)];
        return [box(x(day)!, Math.min(above, below), x.bandwidth(), Math.abs(above - below), texture(place))];
      });
    }),
    ...causes.flatMap((cause, place) => [
      box(NARROW + 6, TOP + 4 + place * 14, 8, 8, texture(place)),
      label(NARROW + 18, TOP + 12 + place * 14, cut(cause, 20)),
    ]),
  );
}

/** A bar of few is no higher than this, with the room about it. */
const MOST_HIGH = 40;

/** Amounts by name, the largest first. */
export function barsDrawn(bars: readonly { name: string; value: number }[]): Html {
  const left = 120;
  const values = bars.map(({ value }) => value);
  const y = scaleBand(
    bars.map(({ name }) => name),
    [TOP, Math.min(BOTTOM, TOP + bars.length * MOST_HIGH)],
  ).padding(0.25);
  const x = scaleLinear([Math.min(0, ...values), Math.max(1e-9, ...values)], [left, WIDTH - 46]);
  return framed(
    ...bars.flatMap(({ name, value }) => {
      const middle = y(name)! + y.bandwidth() / 2 + 4;
      const [from, to] = [Math.min(x(0), x(value)), Math.max(x(0), x(value))];
      return [
        label(left - 6, middle, cut(name, 20), { 'text-anchor': 'end' }),
        box(from, y(name)!, to - from, y.bandwidth(), 'var(--s0)'),
        label(to + 5, middle, value),
      ];
    }),
  );
}
