// How much a step of a rehearsal costs beside the plain check that it begins with. Guide: at least half as many a second.
import { playerMadeUp } from '../dist/core/player/index.js';
import { rehearse } from '../dist/core/rehearsal/index.js';
import { UNTOUCHED, purchaseCheck } from '../dist/core/trade/index.js';
import { compare, loadDemo, secondsOf } from './support.mjs';

const { economy } = loadDemo();
const now = Date.UTC(2027, 2, 1, 9);
const player = playerMadeUp(economy, { attributes: { level: 3 }, holds: { shells: 20_000, pearls: 20 } }, now);
const state = { player, shared: UNTOUCHED, atMs: now };
const STEPS = 900;
const ROUNDS = 60;
const rateOf = (steps) => async () =>
  (ROUNDS * STEPS) /
  (await secondsOf(() => {
    for (let round = 0; round < ROUNDS; round++) rehearse(economy, state, steps);
  }));
const repeat = (step) => Array.from({ length: STEPS }, () => step);
const checks = (offer) => async () =>
  (ROUNDS * STEPS) /
  (await secondsOf(() => {
    for (let check = 0; check < ROUNDS * STEPS; check++) purchaseCheck(economy, player, UNTOUCHED, { offer }, now);
  }));
await compare('Steps of a rehearsal beside plain checks', 'a second', {
  'steps that buy, of which most are refused': rateOf(repeat({ buy: 'storm_frame' })),
  'plain checks of the same, allowed': checks('storm_frame'),
});
await compare('Steps that are done', 'a second', {
  'steps that buy': rateOf(repeat({ buy: 'wax_1' })),
  'plain checks of the same': checks('wax_1'),
});
