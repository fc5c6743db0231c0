// Replaying recorded purchases beside checking as many purchases that are not recorded anywhere.
import { economyCompile } from '../dist/core/economy/index.js';
import { purchasesRead } from '../dist/core/log/index.js';
import { replayPurchases } from '../dist/core/replay/index.js';
import { playerCreate } from '../dist/core/player/index.js';
import { scenarioResolve } from '../dist/core/simulation/index.js';
import { simulateReference } from '../dist/core/simulation/reference.js';
import { UNTOUCHED, purchaseCheck } from '../dist/core/trade/index.js';
import { compare, loadDemo, secondsOf } from './support.mjs';

const { document } = loadDemo();
const { economy } = economyCompile(document);
const lines = [];
const { value } = scenarioResolve(document, 'first_month', { players: 300, days: 30 });
simulateReference(value, {
  onMove: (move) => {
    if (move.kind !== 'buys') return;
    const { player, atMs: at, offer, pay } = move;
    lines.push({ player, at, offer, pay, paid: {}, attributes: { level: 4 } });
  },
});
// The month again and again, with other players each time.
const log = Array.from({ length: Math.ceil(100_000 / lines.length) }, (_, round) =>
  lines.map((line) => JSON.stringify({ ...line, player: `${line.player}-${round}` })),
)
  .flat()
  .slice(0, 100_000)
  .join('\n');
const { purchases } = purchasesRead(log, document);
const blank = playerCreate(economy, 'oda', 'Oda', value.startMs, { level: 4 }).player;
const player = { ...blank, balances: { ...blank.balances, shells: { units: 20_000, sinceMs: null } } };

await compare(
  `Replaying ${purchases.length.toLocaleString('en')} purchases (the goal: at least half the rate of plain checks)`,
  'purchases/s',
  {
    replayed: async () => purchases.length / (await secondsOf(() => replayPurchases(economy, purchases))),
    'checked alone': async () =>
      purchases.length /
      (await secondsOf(() => {
        for (const { offer, pay, atMs } of purchases) purchaseCheck(economy, player, UNTOUCHED, { offer, pay }, atMs);
      })),
    'the log read': async () => purchases.length / (await secondsOf(() => purchasesRead(log, document))),
  },
  3,
);
