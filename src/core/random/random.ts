/**
 * Keyed luck: every number is a pure function of its key, so what one part of a run draws never shifts what another
 * draws, and any number can be reached without drawing those before it. A key has 64 bits in two lanes of 32.
 */

/** Gives numbers from 0 (inclusive) to 1 (exclusive). */
export type Random = () => number;

/** 64 bits that a number, a stream or further keys are drawn by. */
export interface Key {
  readonly high: number;
  readonly low: number;
}

/** A part of a key: a whole number of 32 bits, or a text, by all of its characters. */
export type KeyPart = number | string | Key;

/**
 * A key that is put together in place, for loops that must not make objects. One that a stream is drawn from becomes
 * another with each number, so it is not added to any more.
 */
export class Luck implements Key {
  high = 0;
  low = 0;
  private drawn = 0;

  from(key: Key): this {
    this.high = key.high;
    this.low = key.low;
    this.drawn = 0;
    return this;
  }

  /**
   * Adds a whole number of 32 bits. For one key, different numbers make different keys, and for one number, different keys
   * stay different: both lanes go through bijections, the finalisers of MurmurHash3 (Appleby, public domain) and
   * lowbias32 (Wellons, public domain), and each lane takes up the other.
   */
  add(whole: number): this {
    let high = this.high ^ whole;
    high = Math.imul(high ^ (high >>> 16), 0x85ebca6b);
    high = Math.imul(high ^ (high >>> 13), 0xc2b2ae35);
    high ^= high >>> 16;
    let low = (this.low + 0x9e3779b9) ^ high;
    low = Math.imul(low ^ (low >>> 16), 0x21f0aaad);
    low = Math.imul(low ^ (low >>> 15), 0x735a2d97);
    low ^= low >>> 15;
    this.high = (high + ((low << 13) | (low >>> 19))) | 0;
    this.low = low;
    return this;
  }

  addKey({ high, low }: Key): this {
    return this.add(high).add(low);
  }

  /** The number of this key: 53 of its bits. */
  number(): number {
    return (this.high >>> 5) * 2 ** -27 + (this.low >>> 6) * 2 ** -53;
  }

  /** The next number of the stream that began with this key. */
  next(): number {
    return this.add(this.drawn++).number();
  }
}

/** A text by itself, such as an id: worked out once, it is added wherever the id is part of a key. */
export function keyOfText(text: string): Key {
  const luck = new Luck();
  for (let i = 0; i < text.length; i++) luck.add(text.charCodeAt(i));
  return luck.add(~text.length);
}

/** The key of a seed and any parts: a whole number, or a text with all of its characters. */
export const keyOf = (seed: number, ...parts: readonly KeyPart[]): Key =>
  keyWith(new Luck().add(Math.floor(seed / 2 ** 32)).add(seed | 0), ...parts);

export function keyWith(key: Key, ...parts: readonly KeyPart[]): Key {
  const luck = new Luck().from(key);
  for (const part of parts)
    if (typeof part === 'number') luck.add(part);
    else luck.addKey(typeof part === 'string' ? keyOfText(part) : part);
  return luck;
}

/** The one number of a key. */
export const numberOf = (key: Key): number => new Luck().from(key).number();

/** The stream of a key, from its first number on. */
export function streamOf(key: Key): Random {
  const luck = new Luck().from(key);
  return () => luck.next();
}

/** The stream of a seed and any parts. The same ones give the same numbers on every machine. */
export const randomStream = (seed: number, ...parts: readonly KeyPart[]): Random => streamOf(keyOf(seed, ...parts));

/** One number for a seed and any parts, without keeping a stream. */
export const randomOnce = (seed: number, ...parts: readonly KeyPart[]): number => numberOf(keyOf(seed, ...parts));
