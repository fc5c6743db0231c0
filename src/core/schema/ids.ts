/** What an id is, and the one that a name makes. No schema here: the console asks too. */

/** Ids never change; `constructor` is kept out because plain objects already have one. */
export const ID_PATTERN = /^(?!constructor$)[a-z][a-z0-9_]{0,63}$/;
export const ID_RULE = 'an id is a small letter followed by up to 63 small letters, digits or _';
export const isId = (text: string): boolean => ID_PATTERN.test(text);

const MOST_OF_A_NAME = 60;

/** Small letters and digits of a name, accents taken off, from the first letter on; empty where it has none. */
const latinOf = (name: string): string =>
  name
    .normalize('NFKD')
    .replace(/\p{M}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^[^a-z]+|_+$/g, '')
    .slice(0, MOST_OF_A_NAME);

/**
 * The id that a name makes: "Crème Sail" is `creme_sail`. A name that has no letter for it (in Arabic, or a picture) is
 * numbered as `word` says: `item_1`, `item_2`, the first that is not `taken`. Empty for a blank name only.
 */
export function idFor(name: string, word: string, taken: (id: string) => boolean = () => false): string {
  if (name.trim() === '') return '';
  const id = latinOf(name);
  if (isId(id)) return id;
  let number = 1;
  while (taken(`${latinOf(word)}_${number}`)) number++;
  return `${latinOf(word)}_${number}`;
}

const MOST_OF_A_STEM = 58;

/** The id, or where it is taken the next with a number: `frames` is followed by `frames_2`, and that by `frames_3`. */
export function freeId(id: string, taken: (id: string) => boolean): string {
  if (!taken(id)) return id;
  const stem = id.replace(/_\d+$/, '').slice(0, MOST_OF_A_STEM);
  for (let number = 2; ; number++) if (!taken(`${stem}_${number}`)) return `${stem}_${number}`;
}
