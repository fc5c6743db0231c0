/**
 * Keyed random streams: a stream is a pure function of its keys, so what one part of a run draws never
 * shifts what another draws, and any stream can be reached without replaying others.
 */
import { uniformFloat64 } from 'pure-rand/distribution/uniformFloat64';
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus';

/** Gives numbers from 0 (inclusive) to 1 (exclusive). */
export type Random = () => number;

/** The stream of a seed and any keys. The same keys give the same numbers on every machine. */
export function randomStream(seed: number, ...keys: (string | number)[]): Random {
  const generator = xoroshiro128plus(keyHash(seed, keys));
  return () => uniformFloat64(generator);
}

/** One number from 0 to 1 for the keys, without keeping a stream. */
export const randomOnce = (seed: number, ...keys: (string | number)[]): number => randomStream(seed, ...keys)();

/**
 * 32-bit hash of seed and keys: FNV-1a over the characters, closed by the finaliser of MurmurHash3
 * (Appleby, public domain), which spreads keys that differ in one digit over the whole range.
 */
export function keyHash(seed: number, keys: readonly (string | number)[]): number {
  let hash = (0x811c9dc5 ^ seed) >>> 0;
  for (const key of keys) {
    const text = String(key);
    for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), 0x01000193);
    hash = Math.imul(hash ^ 0x1f, 0x01000193);
  }
  hash ^= hash >>> 16;
  hash = Math.imul(hash, 0x85ebca6b);
  hash ^= hash >>> 13;
  hash = Math.imul(hash, 0xc2b2ae35);
  return (hash ^ (hash >>> 16)) >>> 0;
}
