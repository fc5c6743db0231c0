/**
 * Instants that reasons promise: when there will be enough, when a limit starts again, when more comes. Each is looked at
 * by the same check for that very instant, and told only where it holds then.
 */

/** Reasons that pass by themselves, with the field that says when, and what else tells them apart. */
const PROMISES: { readonly [code: string]: { at: string; of?: string } } = {
  'short-of': { at: 'refilledMs', of: 'asset' },
  'limit-reached': { at: 'resetsMs', of: 'period' },
  'out-of-stock': { at: 'restocksMs' },
  'till-short': { at: 'refilledMs', of: 'asset' },
  'nothing-to-collect': { at: 'nextMs' },
};
/** What makes a promise empty where it comes up by then. */
const SHUTS: readonly string[] = ['shop-closed', 'not-on-show'];

interface Coded {
  code: string;
}
type Told = Coded & Record<string, unknown>;

/** `reasonsAt`: what stands against the same at a later instant. Linear in the instants that are promised. */
export function promisesKept<R extends Coded>(reasons: readonly R[], reasonsAt: (ms: number) => readonly Coded[]): R[] {
  return reasons.map((reason) => {
    const promise = PROMISES[reason.code];
    const atMs = promise && (reason as unknown as Told)[promise.at];
    if (!promise || typeof atMs !== 'number') return reason;
    const then = reasonsAt(atMs);
    const shuts = then.some(({ code }) => SHUTS.includes(code) && reasons.every((now) => now.code !== code));
    return shuts || then.some((one) => isSame(one as Told, reason as unknown as Told, promise.of))
      ? { ...reason, [promise.at]: null }
      : reason;
  });
}

const isSame = (one: Told, other: Told, of: string | undefined): boolean =>
  one.code === other.code && (of === undefined || one[of] === other[of]);
