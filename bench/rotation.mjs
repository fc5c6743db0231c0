// What is on show for a shelf of 500 pooled offers, at random instants today and ten years from the anchor (goal: 1).
// Each answer is asked of a rotation that has kept nothing, so none is quicker for what was asked before.
import { ruleShown } from '../dist/core/rotation/index.js';
import { beatMake, beatStart } from '../dist/core/schedule/index.js';
import { compare, secondsOf } from './support.mjs';

const always = { fromMs: undefined, untilMs: undefined, recurrences: [] };
const shelf = (avoid) => ({
  key: 'wagon/pool',
  seed: 7,
  show: 6,
  avoid,
  perPlayer: false,
  beat: beatMake('Europe/Lisbon', 'day', 9 * 3_600_000),
  pool: Array.from({ length: 500 }, (_, n) => ({ id: `offer_${n}`, weight: 1 + (n % 9), opening: always })),
});
const ASKED = 40;
/** Instants of a year that begins so many days from the anchor; the same ones in every round. */
const rateAt = (rotation, fromDay) => async () => {
  let state = 99;
  const seconds = await secondsOf(() => {
    for (let asked = 0; asked < ASKED; asked++) {
      state = (Math.imul(state, 1103515245) + 12345) >>> 0;
      const ms = beatStart(rotation.beat, fromDay + (state % 365)) + 3_600_000;
      if (
        ruleShown({ kind: 'drawn', rotation: { ...rotation, beat: { ...rotation.beat } } }, undefined, '', ms).offers
          .length !== 6
      )
        throw new Error('not six');
    }
  });
  return ASKED / seconds;
};
for (const avoid of [0, 2]) {
  const rotation = shelf(avoid);
  await compare(`On show of 500 pooled offers, each resting ${avoid} periods, nothing kept`, 'answers/s', {
    'ten years from the anchor': rateAt(rotation, 3650),
    'in the year of the anchor': rateAt(rotation, 0),
    'ten years before it': rateAt(rotation, -3650),
  });
}
