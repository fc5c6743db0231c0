/** Durations as people say them, `1 day 12 h`, and back; kept as ISO 8601 with the same numbers, so nothing is lost. */

interface Unit {
  letter: string;
  time: boolean;
  words: (count: string) => string;
  read: RegExp;
}
const many = (word: string) => (count: string) => `${count} ${word}${count === '1' ? '' : 's'}`;
const short = (word: string) => (count: string) => `${count} ${word}`;

const UNITS: readonly Unit[] = [
  { letter: 'W', time: false, words: many('week'), read: /^(?:weeks?|w)$/ },
  { letter: 'D', time: false, words: many('day'), read: /^(?:days?|d)$/ },
  { letter: 'H', time: true, words: short('h'), read: /^(?:hours?|hrs?|h)$/ },
  { letter: 'M', time: true, words: short('min'), read: /^(?:minutes?|mins?|m)$/ },
  { letter: 'S', time: true, words: short('s'), read: /^(?:seconds?|secs?|s)$/ },
];

/** `PT20M` as `20 min`; what is no duration, such as a calendar word, as it is. */
export function durationWords(written: string): string {
  if (!/^P[0-9WDTHMS]+$/.test(written)) return written;
  const [days = '', time = ''] = written.slice(1).split('T');
  const words = UNITS.flatMap(({ letter, time: ofTime, words: say }) => {
    const count = new RegExp(`(\\d+)${letter}`).exec(ofTime ? time : days)?.[1];
    return count === undefined ? [] : [say(count)];
  });
  return words.join(' ');
}

/** `20 min`, `1 day 12 h` or ISO 8601 as the latter; undefined where it is neither. */
export function durationRead(text: string): string | undefined {
  const bare = text.trim();
  if (/^P\d/.test(bare) || /^PT\d/.test(bare)) return bare;
  const parts = [...bare.toLowerCase().matchAll(/(\d+)\s*([a-z]+)/g)];
  if (parts.length === 0 || bare.toLowerCase().replace(/\d+\s*[a-z]+|,|\band\b|\s/g, '') !== '') return undefined;
  const counts = new Map<string, string>();
  for (const [, count, word] of parts) {
    const unit = UNITS.find(({ read }) => read.test(word!));
    if (!unit || counts.has(unit.letter)) return undefined;
    counts.set(unit.letter, count!);
  }
  const of = (ofTime: boolean) =>
    UNITS.filter(({ letter, time }) => time === ofTime && counts.has(letter))
      .map(({ letter }) => `${counts.get(letter)}${letter}`)
      .join('');
  return `P${of(false)}${of(true) ? `T${of(true)}` : ''}`;
}
