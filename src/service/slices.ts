/** Long work on the thread that serves players, in slices between which they are served. */
import { setImmediate } from 'node:timers/promises';

/** A slice ends after the step in which this is reached. */
const SLICE_MS = 5;

/** What `steps` come to. */
export async function inSlices<T>(steps: Generator<undefined, T, undefined>): Promise<T> {
  let until = performance.now() + SLICE_MS;
  for (let step = steps.next(); ; step = steps.next()) {
    if (step.done) return step.value;
    if (performance.now() < until) continue;
    await setImmediate();
    until = performance.now() + SLICE_MS;
  }
}
