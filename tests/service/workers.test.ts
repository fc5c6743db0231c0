/** Runs over several threads, as the command line plays them on a folder. */
import { RunStopped, scenarioResolve, simulateEngine } from '../../src/core/simulation/index.js';
import { runPlay } from '../../src/runs/play.js';
import { demoDocument } from '../support/economy.js';

const SIZE = { players: 90, days: 12 };
const task = (change: (document: ReturnType<typeof demoDocument>) => void = () => undefined) => {
  const document = demoDocument();
  change(document);
  return { text: JSON.stringify(document), scenario: 'first_month', options: SIZE };
};
/** Few of what all want, so that who comes first decides. */
const scarce = task((document) => {
  const { offers } = document.shops!['pier_stall']!.shelves['frames']!;
  for (const offer of ['gull_frame', 'storm_frame', 'drift_frame'])
    offers[offer]!.stock = { units: 5, restock: { amount: 1, every: 'P1D' } };
});

test.each([1, 2, 3, 4])('the same bytes with %d threads, where players take stock from each other', async (workers) => {
  const setup = scenarioResolve(JSON.parse(scarce.text) as ReturnType<typeof demoDocument>, 'first_month', SIZE);
  const alone = setup.ok ? simulateEngine(setup.value) : undefined;
  const told: number[] = [];
  const result = await runPlay(scarce, { workers, onProgress: (days) => told.push(days) });
  expect(result.sales.soldOutShare.filter((share) => share !== null && share > 0).length).toBeGreaterThan(1);
  expect(JSON.stringify(result)).toBe(JSON.stringify(alone));
  expect(told.at(-1)).toBe(SIZE.days);
  expect(told).toEqual([...told].sort((a, b) => a - b));
});

test('of several threads that stop, the one is told that was first by the clock of the run', async () => {
  const failing = task((document) => {
    document.earning!['race_prize']!.gives = { shells: '=if(day >= 2, 0 - place, 5)' };
  });
  const stopped = await Promise.all(
    [1, 3].map((workers) => runPlay(failing, { workers }).catch((error: unknown) => error)),
  );
  expect(stopped[0]).toBeInstanceOf(RunStopped);
  expect((stopped[1] as Error).message).toBe((stopped[0] as Error).message);
});
