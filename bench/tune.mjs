// What a search over levers costs beside as many runs of the same size alone, and how many runs it takes.
import { sensitivity, tune } from '../dist/core/balance/index.js';
import { leversNamed } from '../dist/core/levers/index.js';
import { scenarioResolve, simulateEngine, targetsOf } from '../dist/core/simulation/index.js';
import { compare, loadDemo, secondsOf } from './support.mjs';

const { document } = loadDemo();
const SCENARIO = 'first_month';
const players = { small: 240, full: 1000 };
const levers = leversNamed(document, Object.keys(document.levers)).value;
const targets = targetsOf(scenarioResolve(document, SCENARIO).value);
const once = (set, size) => simulateEngine(scenarioResolve(document, SCENARIO, { set, players: size }).value);

let sizes = [];
const play = async (set, size) => {
  sizes.push(size);
  return once(set, size);
};
const searched = async (search) => {
  sizes = [];
  const seconds = await secondsOf(search);
  return { seconds, sizes };
};
const runsAlone = (all) =>
  secondsOf(() => all.forEach((size) => once({ '/items/storm_frame/worth/shells': 900 }, size)));

for (const [title, search] of [
  ['Tuning three levers against three targets', () => tune({ document, levers, targets, play, players })],
  ['Sensitivity of three levers', () => sensitivity({ document, levers, targets, play, players: players.full })],
]) {
  const { sizes: asked } = await searched(search);
  console.log(`\n${title}: ${asked.length} runs`);
  await compare(
    '(runs alone / search: near 1 where the search itself costs nothing)',
    'runs/s',
    {
      'runs alone': async () => asked.length / (await runsAlone(asked)),
      search: async () => asked.length / (await searched(search)).seconds,
    },
    3,
  );
}
