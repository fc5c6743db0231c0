import fc from 'fast-check';
import { nearestName, pointerOf, pointerSegments } from './index.js';

test('pointers lead back to their segments, whatever is in them', () => {
  fc.assert(
    fc.property(fc.array(fc.string()), (segments) => expect(pointerSegments(pointerOf(segments))).toEqual(segments)),
  );
  expect(pointerOf(['items', 'a/b', 'c~d', 0])).toBe('/items/a~1b/c~0d/0');
  expect(pointerSegments('')).toEqual([]);
});

test.each([
  ['storm_fram', 'storm_frame'],
  ['stormframe', 'storm_frame'],
  ['wx_1', 'wax_1'],
  ['reel', 'oak_reel'],
  ['Frame', 'storm_frame'],
  ['orm', undefined],
  ['something else', undefined],
  ['', undefined],
])('the name nearest to "%s" is %s', (wrong, nearest) => {
  expect(nearestName(wrong, ['storm_frame', 'wax_1', 'oak_reel'])).toBe(nearest);
});
