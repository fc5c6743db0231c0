import { sparkline } from './sparkline.js';

test.each([
  { values: [0, 1, 2, 3, 4, 5, 6, 7], line: '▁▂▃▄▅▆▇█' },
  { values: [5, 5, 5], line: '███' },
  { values: [0, 0], line: '▁▁' },
  { values: [], line: '' },
  { values: [-3, 7], line: '▁█' },
])('$values is $line', ({ values, line }) => {
  expect(sparkline(values)).toBe(line);
});

test('of more values than blocks each block is the mean of its part', () => {
  expect(sparkline([0, 0, 7, 7], 2)).toBe('▁█');
});
