// Makes demo/log/saltwind-cove.ndjson.gz: what some 500 made-up players did in their first thirty days, as a game would have
// recorded it. They are not quite the demo's personas, so that there is something to find: they follow the week and the
// hours, and some race better than others. The same file comes out each time: node demo/record.mjs (after npm run build).
import { mkdirSync, writeFileSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { folderLoad } from '../dist/cli/folder.js';
import { instantWritten } from '../dist/core/schedule/index.js';
import { scenarioResolve } from '../dist/core/simulation/index.js';
import { simulateReference } from '../dist/core/simulation/reference.js';

const { document } = folderLoad('demo/saltwind-cove');
const evenings = { 7: 2, 8: 3, 12: 3, 13: 3, 17: 5, 18: 8, 19: 12, 20: 16, 21: 14, 22: 7 };
const race = (place) => ({
  ...document.activities.harbour_race,
  emits: { race_finished: { place: { weights: place }, difficulty: { weights: { 1: 50, 2: 35, 3: 15 } } } },
});
const people = {
  ...document,
  activities: {
    ...document.activities,
    quick_race: race({ 1: 34, 2: 27, 3: 19, 4: 12, 5: 8 }),
    slow_race: race({ 1: 8, 2: 14, 3: 22, 4: 28, 5: 28 }),
  },
  personas: {
    daydreamer: {
      ...document.personas.daydreamer,
      attributes: { level: { weights: { 1: 40, 2: 45, 3: 15 } }, platform: 'phone' },
      sessions: { perDay: 0.8, minutes: 14, hours: evenings },
      plays: { beach_walk: 6, slow_race: 1, chime_hanging: 2 },
      leaves: 0.02,
    },
    weekender: {
      ...document.personas.weekender,
      attributes: { level: { from: 2, to: 4 }, platform: 'phone' },
      sessions: { perDay: 1, minutes: 28, hours: evenings, weekdays: { saturday: 3, sunday: 2.5, monday: 0.4 } },
      leaves: 0.008,
    },
    racer: {
      ...document.personas.racer,
      attributes: { level: { from: 3, to: 6 }, platform: 'desktop' },
      sessions: { perDay: 2.4, minutes: 45, from: 7, to: 23 },
      plays: { quick_race: 9, beach_walk: 1 },
      leaves: 0.004,
    },
  },
  scenarios: {
    log: {
      name: 'Log',
      start: '2027-02-01',
      days: 30,
      players: 500,
      seed: 20270201,
      mix: { daydreamer: 50, weekender: 35, racer: 15 },
    },
  },
};
delete people.targets;
delete people.levers;

const setup = scenarioResolve(people, 'log');
if (!setup.ok) throw new Error(JSON.stringify(setup.issues, null, 2));
const { economy } = setup.value;
const names = new Map();
const attributes = new Map();
const told = new Set();
const lines = [];
simulateReference(setup.value, {
  onMove: (move) => {
    if (move.kind === 'joins') {
      names.set(move.player, `p${String(names.size + 1).padStart(3, '0')}`);
      attributes.set(move.player, move.attributes);
    }
    if (move.kind !== 'event' && move.kind !== 'buys') return;
    const player = names.get(move.player);
    const line = { player, at: instantWritten(economy.zone, move.atMs).slice(0, 16), session: move.session };
    if (move.kind === 'event') Object.assign(line, { event: move.name, fields: move.fields });
    else
      Object.assign(line, {
        offer: move.offer,
        ...(move.pay === undefined ? {} : { pay: move.pay }),
        paid: Object.fromEntries(
          Object.entries(move.total).map(([id, units]) => [id, units / 10 ** (economy.currencies.get(id)?.decimals ?? 0)]),
        ),
      });
    // The first line of a player says what they are.
    if (!told.has(player)) Object.assign(line, { attributes: attributes.get(move.player) });
    told.add(player);
    lines.push(line);
  },
});
const text = lines.map((line) => `${JSON.stringify(line)}\n`).join('');
mkdirSync('demo/log', { recursive: true });
const packed = gzipSync(text, { level: 9 });
writeFileSync('demo/log/saltwind-cove.ndjson.gz', packed);
process.stdout.write(`${told.size} players, ${lines.length} lines, ${(packed.length / 1e6).toFixed(2)} MB packed\n`);
