/**
 * Keyed random streams: a stream is a pure function of its keys, so what one part of a run draws never
 * shifts what another draws, and any stream can be reached without replaying others.
 */
import { uniformFloat64 } from 'pure-rand/distribution/uniformFloat64';
import { xoroshiro128plus } from 'pure-rand/generator/xoroshiro128plus';

/** Gives numbers from 0 (inclusive) to 1 (exclusive). */
export type Random = () => number;

/** The stream of a seed and any keys. The same keys give the same numbers on every machine. */
export const randomStream = (seed: number, ...keys: (string | number)[]): Random => streamOf(keyHash(seed, keys));

/** One number from 0 to 1 for the keys, without keeping a stream. */
export const randomOnce = (seed: number, ...keys: (string | number)[]): number => randomStream(seed, ...keys)();

/** The stream of keys that were put together step by step. */
export function streamOf(hash: number): Random {
  const generator = xoroshiro128plus(hash);
  return () => uniformFloat64(generator);
}

/**
 * The first number of a stream, as `streamOf(hash)()` gives it, without making one: two steps of xoroshiro128+
 * (Blackman & Vigna) from the state that the hash begins with.
 */
export function firstOf(hash: number): number {
  const seed = hash | 0;
  const s00 = ~hash;
  // The state begins as s01 = -1, s00 = ~hash, s11 = hash, s10 = 0, so that this is the first step worked out.
  const b0 = s00;
  const b1 = seed ^ -1;
  const n00 = (s00 << 24) ^ (-1 >>> 8) ^ b0 ^ (b0 << 16);
  const n10 = (b1 << 5) ^ (b0 >>> 27);
  return (s00 & 67108863) * 2 ** -26 + ((n00 + n10) & 134217727) * 2 ** -53;
}

/**
 * 32-bit hash of seed and keys: FNV-1a over the characters, closed by the finaliser of MurmurHash3
 * (Appleby, public domain), which spreads keys that differ in one digit over the whole range.
 */
export function keyHash(seed: number, keys: readonly (string | number)[]): number {
  let hash = keyBegin(seed);
  for (const key of keys) hash = keyNext(keyText(hash, String(key)));
  return keyEnd(hash);
}

// The same step by step, for callers whose keys begin alike: what is common is hashed once.

const PRIME = 0x01000193;

export const keyBegin = (seed: number): number => (0x811c9dc5 ^ seed) >>> 0;

/** Characters of the key that is being hashed. */
export function keyText(hash: number, text: string): number {
  let result = hash;
  for (let i = 0; i < text.length; i++) result = Math.imul(result ^ text.charCodeAt(i), PRIME);
  return result;
}

/** The digits of a whole number of 0 or more, as `keyText` of its text. */
export function keyDigits(hash: number, whole: number): number {
  if (whole < 10) return Math.imul(hash ^ (48 + whole), PRIME);
  return Math.imul(keyDigits(hash, Math.floor(whole / 10)) ^ (48 + (whole % 10)), PRIME);
}

/** The end of one key. */
export const keyNext = (hash: number): number => Math.imul(hash ^ 0x1f, PRIME);

/** The end of all keys. */
export function keyEnd(hash: number): number {
  let end = hash ^ (hash >>> 16);
  end = Math.imul(end, 0x85ebca6b);
  end ^= end >>> 13;
  end = Math.imul(end, 0xc2b2ae35);
  return (end ^ (end >>> 16)) >>> 0;
}
