import { Allowance } from './allowance.js';

const WORK_MS = 20;
/** What is expected of so many kB is more than half of that. */
const LARGE_KB = 40;
const KEY = 'POST /checks';
const REFUSED = /"game" asks for more than 20 ms of work in a second/;

test('what is sent counts by its size before it is read, for each holder alone', async () => {
  const allowance = new Allowance(WORK_MS);
  await allowance.take('game', KEY, LARGE_KB);
  await expect(allowance.take('game', KEY, LARGE_KB)).rejects.toThrow(REFUSED);
  await allowance.take('other', KEY, LARGE_KB);
});

test('what it has cost less than was expected is given back', async () => {
  const allowance = new Allowance(WORK_MS);
  for (let n = 0; n < 5; n++) (await allowance.take('game', KEY, LARGE_KB))(1);
});

test('what it has cost more is owed, and each second pays for as much as may be asked for in it', async () => {
  const allowance = new Allowance(WORK_MS);
  (await allowance.take('game', KEY, 0))(WORK_MS);
  await expect(allowance.take('game', KEY, 0)).rejects.toThrow(REFUSED);
});

test('what was asked for before tells what is expected of the next of its kind', async () => {
  const allowance = new Allowance(1000);
  for (let n = 0; n < 60; n++) (await allowance.take(`first ${n}`, KEY, 0))(90);
  // Each is expected to cost as much as those before it, up to a tenth of a second.
  let taken = 0;
  await expect(
    (async () => {
      for (; taken < 60; taken++) await allowance.take('game', KEY, 0);
    })(),
  ).rejects.toThrow(/more than 1000 ms/);
  expect(taken).toBeLessThan(15);
});

test('whoever has asked for nothing else in this second is not refused, however large it is', async () => {
  const allowance = new Allowance(WORK_MS);
  await allowance.take('game', KEY, 12_000);
});
