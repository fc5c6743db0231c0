// The time of one check of a purchase in core. Guide: under 2 microseconds.
import { playerMadeUp } from '../dist/core/player/index.js';
import { UNTOUCHED, purchaseCheck } from '../dist/core/trade/index.js';
import { compare, loadDemo, secondsOf } from './support.mjs';

const { economy } = loadDemo();
const now = Date.UTC(2027, 2, 1, 9);
const player = playerMadeUp(
  economy,
  { attributes: { level: 3 }, holds: { shells: 5000, pearls: 20, glide_wax: 12, wind_chime: 3 } },
  now,
);
const CHECKS = 200_000;
const rateOf = (request) => async () => {
  let allowed = 0;
  const seconds = await secondsOf(() => {
    for (let check = 0; check < CHECKS; check++)
      if (purchaseCheck(economy, player, UNTOUCHED, request, now + check).allowed) allowed++;
  });
  if (allowed !== CHECKS) throw new Error('the check refused');
  return CHECKS / seconds / 1e6;
};
await compare('Checks in core (millions per second: 0.5 is two microseconds each)', 'million/s', {
  'a fixed price': rateOf({ offer: 'oak_reel' }),
  'a limit per day': rateOf({ offer: 'calm_charm' }),
  'a formula': rateOf({ offer: 'wind_chime' }),
  'two alternatives and stock': rateOf({ offer: 'lantern_sail', pay: 'pearls' }),
});
