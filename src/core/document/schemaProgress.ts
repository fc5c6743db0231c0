/** The shapes of what players work towards: goals, and tracks of levels. */
import {
  amount,
  anyNumber,
  anyValue,
  basket,
  called,
  choice,
  condition,
  every,
  fields,
  ids,
  inCells,
  listOf,
  mapOf,
  orFormula,
  refTo,
  said,
  text,
  wholeNumber,
  worded,
  yesNo,
} from '../schema/index.js';
import type { RefKind } from '../schema/index.js';
import { COUNT_NAMES, COUNT_WORDS } from './counts.js';
import { share } from './schemaTeams.js';

const named = () => text(120).required();
const description = () => text(1000);
const refs = (kind: RefKind, of: string) => inCells('list', listOf(refTo(kind), { most: 50, of }));

/** What is counted towards a goal must be more than nothing. */
const LEAST = 0.0001;
const MOST = 9e15;

export const goalSchema = fields({
  name: said('Name', 'What players call it.', named()),
  description: said('Description', 'A sentence for players.', description()),
  counts: said('Counts', 'What brings it nearer.', worded(COUNT_WORDS, choice(...COUNT_NAMES)).required()),
  target: said('Target', 'How many, or how much, it takes.', anyNumber(LEAST, MOST).required()),
  event: said('Event', 'Which event.', refTo('event')),
  when: said('Only if', 'A formula that must hold, of the player and of the event.', condition()),
  by: said(
    'Counts as',
    'How much one event counts; 1 where nothing is written.',
    inCells('amount', orFormula(anyNumber(0, MOST), 'a count')),
  ),
  offers: said('Offers', 'Purchases of these.', refs('offer', 'offer ids')),
  items: said('Items', 'These things.', refs('item', 'item ids')),
  groups: said('Groups', 'Things of these groups.', refs('group', 'group ids')),
  tags: said('Tags', 'Things with one of these tags.', inCells('list', listOf(text(64), { most: 50, of: 'tags' }))),
  distinct: said('Different ones', 'Three different ones, not three of one.', yesNo()),
  currency: said('Currency', 'Of which money.', refTo('currency')),
  attribute: said('Attribute', 'Which attribute.', refTo('attribute')),
  team: said(
    'Of a team',
    'Members of such a team work towards it together, and the team gets what it gives.',
    refTo('team'),
  ),
  every: said('Every', 'It begins anew with each period, and can be reached once in each.', every()),
  after: said('After', 'It counts only once this goal has been reached.', refTo('goal')),
  shownFrom: said(
    'Shown from',
    'Players see it from this part of its target on, such as 0.8; always where nothing is written.',
    anyNumber(0, 1),
  ),
  gives: said('Gives', 'What the player, or the team, gets.', basket()),
  loot: said('Loot table', 'What it draws from beside that.', refTo('loot')),
  share: said('Share', 'What part of the money that it gives goes to the team instead.', share()),
  sets: said('Sets', 'Attributes of the player, and their new values.', mapOf(anyValue(), ids('attribute'))),
});

/** Levels are counted, so a table of them has numbers for keys. */
const LEVEL = /^[1-9]\d{0,3}$/;
export const MOST_LEVELS = 1000;

export const trackSchema = fields({
  name: said('Name', 'What players call it.', named()),
  description: said('Description', 'A sentence for players.', description()),
  earns: said('Earned', 'The currency that counts, whatever becomes of it afterwards.', refTo('currency').required()),
  attribute: said(
    'Level',
    'The attribute that holds the level; it begins where new players have it.',
    refTo('attribute').required(),
  ),
  levels: said(
    'Levels',
    'What each level costs beyond the one before, and what it gives.',
    mapOf(
      called(
        'level',
        fields({
          costs: said('Costs', 'How much more must be earned.', amount().required()),
          gives: said('Gives', 'What reaching it gives.', basket()),
        }),
      ),
      {
        test: (key) => LEVEL.test(key),
        rule: 'a level is a whole number, such as 2',
        pattern: LEVEL.source,
      },
      MOST_LEVELS,
    ),
  ),
  further: said(
    'Further levels',
    'Those behind the table, by formulas of level.',
    fields({
      to: said('Up to', 'The last level.', wholeNumber(1, MOST_LEVELS).required()),
      costs: said('Costs', 'How much more must be earned, such as =50 * 1.2 ^ level.', amount().required()),
      gives: said('Gives', 'What reaching each gives.', basket()),
    }),
  ),
});
