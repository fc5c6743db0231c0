/** Whether a rehearsal on this machine ended in a purchase and a refusal: the way to a first shop ticks it off. */

const STORE = 'rehearsed';

/** What became of steps, as far as it matters here. */
interface Done {
  verb: string;
  done: boolean;
}

export function rehearsedKeep(steps: readonly Done[]): void {
  const bought = steps.filter(({ verb }) => verb === 'buy');
  if (bought.some(({ done }) => done) && bought.some(({ done }) => !done)) localStorage.setItem(STORE, 'yes');
}

export const wasRehearsed = (): boolean => localStorage.getItem(STORE) !== null;
