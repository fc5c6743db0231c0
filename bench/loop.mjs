// The engine beside a loop in C that plays the same by hand, with the same luck: time for each simulated event.
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { economyCompile } from '../dist/core/economy/index.js';
import { simulateEngine } from '../dist/core/simulation/index.js';
import { play } from './loopByHand.mjs';
import { compare, secondsOf } from './support.mjs';

const START_MS = Date.UTC(2027, 2, 1);
const OFFERS = Array.from({ length: 40 }, (_, n) => [`sail_${n}`, 30 + 37 * n]);
const { economy } = economyCompile({
  name: 'Saltwind Cove',
  timeZone: 'UTC',
  currencies: {
    shells: { name: 'Shells', start: 60 },
    pearls: { name: 'Pearls' },
    breeze: { name: 'Breeze', start: 5, refill: { amount: 1, every: 'PT20M', upTo: 6 } },
  },
  items: Object.fromEntries(
    OFFERS.map(([id, shells]) => [id, { name: id, kind: 'durable', carry: 1, worth: { shells } }]),
  ),
  shops: {
    stall: {
      name: 'Pier Stall',
      shelves: { main: { name: 'Sails', offers: Object.fromEntries(OFFERS.map(([id]) => [id, { gives: id }])) } },
    },
  },
  events: {
    race_finished: { fields: { place: 'number', difficulty: 'number' } },
    beach_combed: { fields: { finds: 'number' } },
  },
  earning: {
    race_prize: {
      name: 'Race prize',
      on: 'race_finished',
      gives: { shells: '=if(place == 1, 30, if(place <= 3, 18, 8)) * (1 + 0.25 * (difficulty - 1))' },
    },
    winners_pearl: {
      name: "Winner's pearl",
      on: 'race_finished',
      when: '=place == 1',
      chance: 0.2,
      gives: { pearls: 1 },
      limits: { day: 1 },
    },
    beach_finds: { name: 'Beach finds', on: 'beach_combed', gives: { shells: '=3 * finds' }, limits: { day: 6 } },
  },
  activities: {
    harbour_race: {
      name: 'Harbour race',
      minutes: 4,
      needs: { breeze: 1 },
      emits: {
        race_finished: {
          place: { weights: { 1: 18, 2: 22, 3: 20, 4: 20, 5: 20 } },
          difficulty: { from: 1, to: 3 },
        },
      },
    },
    beach_walk: { name: 'Beach walk', minutes: 6, emits: { beach_combed: { finds: { poisson: 2.5 } } } },
  },
  personas: {
    racer: {
      name: 'Racer',
      sessions: { perDay: 1, fixed: true, minutes: 30, from: 9, to: 20 },
      plays: { harbour_race: 3, beach_walk: 2 },
      shops: { policy: 'impulse', chance: 0.08, keeps: { shells: 20 } },
    },
  },
});
const setup = (players, days) => ({
  economy,
  scenarioId: 'loop',
  name: 'Loop',
  startMs: START_MS,
  days,
  seed: 7,
  crowd: [{ persona: 'racer', players }],
});

const folder = mkdtempSync(join(tmpdir(), 'dimestall-loop-'));
try {
  const program = join(folder, 'loop');
  let compiler = true;
  try {
    execFileSync('cc', ['-O2', '-o', program, join(import.meta.dirname, 'loop.c'), '-lm'], { stdio: 'ignore' });
  } catch {
    compiler = false;
    console.log('There is no C compiler (cc) here: the loop in C is left out.');
  }
  if (compiler) {
    const [PLAYERS, DAYS] = [2000, 30];
    const inC = () =>
      execFileSync(program, [PLAYERS, DAYS, START_MS].map(String), { encoding: 'utf8' }).trim().split(' ').map(Number);
    const { totals, players } = simulateEngine(setup(PLAYERS, DAYS));
    const held = players.balance[0].reduce((sum, units) => sum + units, 0);
    const byHand = () => play(PLAYERS, DAYS, START_MS);
    for (const [name, played] of Object.entries({ 'in C': inC(), 'by hand in JavaScript': byHand() })) {
      const [events, purchases, shells] = played;
      if (events !== totals.events || purchases !== totals.purchases || shells !== held)
        throw new Error(
          `the loop ${name} plays something else: ${events} events, ${purchases} purchases, ${shells} shells instead of ${totals.events}, ${totals.purchases}, ${held}`,
        );
    }
    const { events, purchases } = totals;
    const rates = await compare(
      `Engine and a loop in C, ${events} events and ${purchases} purchases in both`,
      'events/s',
      {
        'the loop in C': () => events / inC()[3],
        'the loop by hand in JavaScript': async () => events / (await secondsOf(byHand)),
        'the engine': async () => totals.events / (await secondsOf(() => simulateEngine(setup(PLAYERS, DAYS)))),
      },
      5,
    );
    console.log(
      `time of an event, JavaScript by hand / C = ${(rates['the loop in C'] / rates['the loop by hand in JavaScript']).toFixed(1)}`,
    );
    console.log(`time of an event, engine / C = ${(rates['the loop in C'] / rates['the engine']).toFixed(1)}`);
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}
