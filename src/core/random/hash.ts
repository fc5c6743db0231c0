/**
 * 32-bit hash of seed and keys, by which rotations rank their offers: FNV-1a over the characters, closed by the finaliser
 * of MurmurHash3 (Appleby, public domain). Changing it would change what is on show in games that are live.
 */
export function keyHash(seed: number, keys: readonly (string | number)[]): number {
  let hash = (0x811c9dc5 ^ seed) >>> 0;
  for (const key of keys) {
    const text = String(key);
    for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), PRIME);
    hash = Math.imul(hash ^ 0x1f, PRIME);
  }
  hash ^= hash >>> 16;
  hash = Math.imul(hash, 0x85ebca6b);
  hash ^= hash >>> 13;
  hash = Math.imul(hash, 0xc2b2ae35);
  return (hash ^ (hash >>> 16)) >>> 0;
}

const PRIME = 0x01000193;
