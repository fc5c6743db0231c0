/** The time line's numbers: stretches and ticks by the clocks on the wall, and what dragging writes into the draft. */
import type { CalendarEntry } from '../../src/core/calendar/index.js';
import {
  SCALES,
  againStep,
  canDrag,
  dragStep,
  dragged,
  startAfter,
  startAround,
  stretchFrom,
  ticksOf,
} from '../../src/console/calendar/timeline.js';
import type { Grip } from '../../src/console/calendar/timeline.js';
import { DAY, HOUR, demoDocument } from '../support/economy.js';

const ZONE = 'Europe/Lisbon';
const at = (text: string) => Date.parse(text);
const document = demoDocument();
const entry = (
  kind: CalendarEntry['kind'],
  pointer: string,
  from: string,
  until: string,
  recurs = false,
): CalendarEntry => ({
  kind,
  pointer,
  id: pointer.split('/').at(-1)!,
  name: 'It',
  startMs: at(from),
  endMs: at(until),
  offers: [],
  recurs,
  warnings: [],
});
const spring = entry('sale', '/sales/spring_sails', '2027-03-20T00:00Z', '2027-03-29T23:00Z');
const wax = entry('sale', '/sales/wax_weekend', '2027-03-20T00:00Z', '2027-03-22T00:00Z', true);
const operations = (one: CalendarEntry, byMs: number, grip: Grip, scale = SCALES['week']!) =>
  dragStep(document, ZONE, one, dragged(ZONE, one, byMs, grip, scale))?.operations.map((one) => [
    one.path,
    (one as { value: string }).value,
  ]);

test('a stretch is as long by the clocks on the wall as its scale says, over a change of clocks too', () => {
  const week = stretchFrom(ZONE, '2027-03-24T00:00', SCALES['week']!)!;
  expect((week.toMs - week.fromMs) / HOUR).toBe(7 * 24 - 1);
  expect(ticksOf(week, SCALES['week']!).map(({ label }) => label)).toHaveLength(7);
  expect(startAfter(week, SCALES['week']!, 1)).toBe('2027-03-31T00:00');
  expect(startAfter(week, SCALES['week']!, -1)).toBe('2027-03-17T00:00');
  expect(startAround(ZONE, at('2027-07-01T10:40Z'), SCALES['hour']!)).toBe('2027-07-01T11:00');
  expect(startAround(ZONE, at('2027-07-01T10:40Z'), SCALES['season']!)).toBe('2027-07-01T00:00');
  expect(stretchFrom(ZONE, 'soon', SCALES['day']!)).toBeUndefined();
});

test('a sale of one time comes again with its hours, whatever they are; one without an end, or that comes again, does not', () => {
  const sale = { name: 'It', percent: 10, from: '2027-03-26T19:00', until: '2027-03-28T01:30' };
  expect(againStep('it', sale, 'WEEKLY')!.operations).toEqual([
    {
      op: 'add',
      path: '/sales/it/runs',
      value: { weekly: { starts: '2027-03-26T19:00', repeats: 'FREQ=WEEKLY', lasts: 'P1DT6H30M' } },
    },
    { op: 'remove', path: '/sales/it/from' },
    { op: 'remove', path: '/sales/it/until' },
  ]);
  expect(againStep('it', { ...sale, from: '2027-03-26', until: '2027-03-27' }, 'MONTHLY')!.operations[0]).toMatchObject(
    {
      value: { monthly: { starts: '2027-03-26T00:00', lasts: 'P1D' } },
    },
  );
  for (const none of [
    { until: undefined },
    { from: undefined },
    { from: '2027-03-29' },
    { from: '2027-03-26T19:00Z' },
    { runs: {} },
  ])
    expect(againStep('it', { ...sale, ...none }, 'DAILY')).toBeUndefined();
});

test('what is dragged snaps, keeps its local times, and is never turned round', () => {
  expect(operations(spring, 26 * HOUR, 'whole')).toEqual([
    ['/sales/spring_sails/from', '2027-03-21T02:00'],
    ['/sales/spring_sails/until', '2027-03-31T02:00'],
  ]);
  expect(operations(spring, 26 * HOUR, 'start')).toEqual([['/sales/spring_sails/from', '2027-03-21T02:00']]);
  expect(operations(spring, -2 * DAY, 'end')).toEqual([['/sales/spring_sails/until', '2027-03-28T00:00']]);
  expect(operations(spring, 90 * DAY, 'start')).toEqual([['/sales/spring_sails/from', '2027-03-29T23:00']]);
  expect(operations(spring, -90 * DAY, 'end')).toEqual([['/sales/spring_sails/until', '2027-03-20T01:00']]);
  expect(operations(spring, 10, 'whole')).toBeUndefined();
});

test('of what comes again the first window and its length are moved', () => {
  expect(operations(wax, DAY, 'whole')).toEqual([['/sales/wax_weekend/runs/weekends/starts', '2027-01-03T00:00']]);
  expect(operations(wax, -6 * HOUR, 'end')).toEqual([['/sales/wax_weekend/runs/weekends/lasts', 'P1DT18H']]);
  expect(operations(wax, -6 * HOUR, 'start')).toEqual([
    ['/sales/wax_weekend/runs/weekends/starts', '2027-01-01T18:00'],
    ['/sales/wax_weekend/runs/weekends/lasts', 'P2DT6H'],
  ]);
});

test('only what is written in one place can be dragged', () => {
  const pass = '/shops/pearl_counter/shelves/for_pearls/offers/festival_pass';
  expect(canDrag(document, spring)).toBe(true);
  expect(canDrag(document, wax)).toBe(true);
  expect(canDrag(document, entry('offer', pass, '2027-04-24T00:00Z', '2027-05-10T00:00Z'))).toBe(true);
  expect(
    canDrag(document, entry('open', '/shops/festival_booth', '2027-04-26T09:00Z', '2027-04-26T23:00Z', true)),
  ).toBe(true);
  expect(
    canDrag(
      document,
      entry(
        'rotation',
        '/shops/lantern_wagon/shelves/tonight/rotation',
        '2027-03-20T09:00Z',
        '2027-03-21T09:00Z',
        true,
      ),
    ),
  ).toBe(false);
  expect(canDrag(document, entry('sale', '/sales/gone', '2027-03-20T09:00Z', '2027-03-21T09:00Z'))).toBe(false);
  const twice = structuredClone(document);
  twice.sales!['wax_weekend']!.runs!['more'] = { starts: '2027-01-04T00:00', lasts: 'PT1H' };
  expect(canDrag(twice, wax)).toBe(false);
});
