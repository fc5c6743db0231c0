/** What goes with a language: where its texts are looked for, and how numbers, money and lists are written in it. */

/** More of a kind than any game has languages; what anybody may ask for must not fill the memory. */
const MOST = 200;

/** Making such a format takes sixty times as long as using it, so each is made once. A cache only: it never changes an answer. */
function madeOnce<O extends string | number, F>(make: (language: string, of: O) => F): (language: string, of: O) => F {
  const known = new Map<string, F>();
  return (language, of) => {
    const key = `${language} ${of}`;
    let format = known.get(key);
    if (format === undefined) {
      if (known.size >= MOST) known.clear();
      known.set(key, (format = make(language, of)));
    }
    return format;
  };
}

/** Where a text is looked for: the language itself, its wider ones (`pt` for `pt-BR`), the economy's own. */
export const languageChain = madeOnce((language, own: string): readonly string[] => {
  const parts = language.split('-');
  const wider = parts.map((_, index) => parts.slice(0, parts.length - index).join('-'));
  return [...new Set([...wider, own])];
});

/** With so many decimals, no more and no fewer. */
export const amountFormat = madeOnce(
  (language, decimals: number) =>
    new Intl.NumberFormat(language, { minimumFractionDigits: decimals, maximumFractionDigits: decimals }),
);

/** As many decimals as a number has, up to so many. */
export const numberFormat = madeOnce(
  (language, most: number) => new Intl.NumberFormat(language, { maximumFractionDigits: most }),
);

export const moneyFormat = madeOnce(
  (language, code: string) => new Intl.NumberFormat(language, { style: 'currency', currency: code }),
);

export const listFormat = madeOnce(
  (language, type: 'conjunction' | 'disjunction') => new Intl.ListFormat(language, { style: 'long', type }),
);
