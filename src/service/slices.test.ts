import { setImmediate } from 'node:timers/promises';
import { inSlices } from './slices.js';

function* busy(steps: number, stepMs: number): Generator<undefined, string, undefined> {
  for (let step = 0; step < steps; step++) {
    for (const until = performance.now() + stepMs; performance.now() < until;);
    yield;
  }
  return 'done';
}

test('others are served between the slices of what takes long', async () => {
  let isOver = false;
  const work = inSlices(busy(60, 1)).then((value) => {
    isOver = true;
    return value;
  });
  let turns = 0;
  for (; !isOver; turns++) await setImmediate();
  expect(await work).toBe('done');
  expect(turns).toBeGreaterThan(5);
});

test('what fails in a later slice is told', async () => {
  function* failing(): Generator<undefined, never, undefined> {
    yield* busy(10, 1);
    throw new Error('the sail is torn');
  }
  await expect(inSlices(failing())).rejects.toThrow('the sail is torn');
});
