/** What many shapes on the wire are made of. Amounts are integers of smallest units, instants epoch milliseconds. */
import {
  about,
  anyKeys,
  anyText,
  anyValue,
  anyWhole,
  checked,
  choice,
  described,
  fields,
  ids,
  listOf,
  mapOf,
  named,
  orNull,
  record,
  shapeOf,
  text,
  wholeNumber,
} from '../../core/schema/index.js';
import type { Shape } from '../../core/schema/index.js';
import type { KeptOutTold } from '../../core/texts/index.js';
import { formulaInput } from '../../core/trade/index.js';

/** More than any list of an answer holds. */
export const MANY = 1_000_000;
export const listed = <S extends Shape<unknown>>(of: string, inner: S) => listOf(inner, { most: MANY, of });
export const texts = () => listed('texts', anyText());

/** Assets to integers of smallest units. */
export const amounts = () => mapOf(anyWhole(), anyKeys);
export const values = () => mapOf(anyValue(), anyKeys);
export const inputs = () => listed('inputs', formulaInput);

/** How many assets or attributes a caller may name in one place. */
const MOST_NAMED = 200;

/** What a caller says of a player. */
export const attributesSent = () => mapOf(anyValue(), ids(), MOST_NAMED);

/** A basket that a caller sends, in smallest units. */
export const unitsBasket = (least = 0, most = Number.MAX_SAFE_INTEGER) =>
  mapOf(
    checked<number>({ type: 'integer', minimum: least, maximum: most }, (value) =>
      Number.isSafeInteger(value) && (value as number) >= least && (value as number) <= most
        ? undefined
        : {
            code: 'bad-amount',
            problem: `${described(value)} is not a whole number of smallest units${most === Number.MAX_SAFE_INTEGER ? '' : ` up to ${most}`}`,
            fix: `Write ${least} or more.`,
          },
    ),
    ids(),
    MOST_NAMED,
  );

/** A player made up for a question. `holds` is in smallest units and replaces the start balances of what it names. */
export const profile = named('Profile', fields({ attributes: attributesSent(), holds: unitsBasket() }));

/** What was due and did not come, with what keeps it out. */
export const keptOut = () =>
  listed(
    'amounts',
    shapeOf<KeptOutTold>({
      asset: anyText(),
      units: anyWhole(),
      by: choice('cap', 'carry', 'slots', 'ceiling'),
      most: anyWhole(),
      sentence: anyText(),
    }),
  );

/** A page of a list: pass `next` as `cursor` for the rest; null at the end. */
export const pageOf = <S extends Shape<unknown>>(inner: S) =>
  record({ items: listed('items', inner), next: orNull(anyText()) });
export interface Page<T> {
  items: T[];
  next: string | null;
}

const LIMIT = wholeNumber(1, 500);
export const PAGE_QUERY = {
  cursor: about('Where the last page ended (its `next`)', text(200)),
  limit: about('How many; 50 by default', LIMIT),
};
/** The same where the cursor is a number. */
export const NUMBERED_PAGE_QUERY = {
  ...PAGE_QUERY,
  cursor: about('Where the last page ended (its `next`)', wholeNumber(0, Number.MAX_SAFE_INTEGER)),
};

export const sourceQuery = (otherwise = 'live') =>
  about(`draft, a channel or a release number; ${otherwise} by default`, text(64));
export const atQuery = (words = 'An instant, such as 2027-03-01T09:00; now by default') => about(words, text(40));
/** Whether the languages of this machine's texts can be asked for it (BCP 47). */
function isLanguageTag(tag: string): boolean {
  try {
    return Intl.getCanonicalLocales(tag).length === 1;
  } catch {
    return false;
  }
}

export const languageQuery = () =>
  about(
    'Names, prices, the question and the refusals in the words of a language, such as pt',
    checked<string>({ type: 'string', pattern: '^[a-z]{2,3}(-[A-Za-z0-9]{2,8}){0,3}$' }, (value) =>
      typeof value === 'string' && /^[a-z]{2,3}(-[A-Za-z0-9]{2,8}){0,3}$/.test(value) && isLanguageTag(value)
        ? undefined
        : { problem: `${described(value)} is not a language`, fix: 'Write a tag such as en, pt or pt-BR.' },
    ),
  );
/** Which channel a game is on. */
export const CHANNEL_QUERY = { channel: about('The channel that the game is on; live by default', text(64)) };
export const whyQuery = () => about('A word on why', text(500));

/** A number in a path. */
export const numbered = (most = 999_999_999) => wholeNumber(0, most);

/** One to seven numbers with commas between them, as a query has them. */
export const numberedList = () =>
  checked<string>({ type: 'string', pattern: '^\\d{1,9}(,\\d{1,9}){0,6}$' }, (value) =>
    typeof value === 'string' && /^\d{1,9}(,\d{1,9}){0,6}$/.test(value)
      ? undefined
      : { problem: `${described(value)} is no list of one to seven numbers`, fix: 'Write them like 3,4,7.' },
  );
