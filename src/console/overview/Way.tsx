/** The way of the work, from nothing to what players meet: each step one form away, ticked off by what is there. */
import { Link } from 'react-router';
import type { EconomyDocument } from '../../core/document/index.js';
import { useChannels } from '../api.js';
import { wasRehearsed } from '../parts/rehearsed.js';
import { Sheet } from '../parts/ui.js';

const some = (section: object | undefined): boolean => Object.keys(section ?? {}).length > 0;

interface Step {
  words: string;
  help: string;
  to: string;
  isDone: (document: EconomyDocument, live: boolean) => boolean;
}

const STEPS: readonly Step[] = [
  {
    words: 'A currency',
    help: 'what things are paid with',
    to: '/catalog?view=currencies',
    isDone: ({ currencies }) => some(currencies),
  },
  { words: 'An item', help: 'what players own', to: '/catalog', isDone: ({ items }) => some(items) },
  {
    words: 'A shop with an offer',
    help: 'a shelf, and on it what is sold',
    to: '/shops?mode=arrange',
    isDone: ({ shops }) =>
      Object.values(shops ?? {}).some((shop) => Object.values(shop.shelves).some(({ offers }) => some(offers))),
  },
  {
    words: 'How players earn',
    help: 'an event of your game, and a rule that pays for it',
    to: '/earning',
    isDone: ({ earning }) => some(earning),
  },
  {
    words: 'Rehearse as a player',
    help: 'until something was bought, and something refused',
    to: '/shops?mode=rehearse',
    isDone: (_, live) => live || wasRehearsed(),
  },
  {
    words: 'Publish',
    help: 'from then on games and players meet it',
    to: '/publish',
    isDone: (_, live) => live,
  },
];

export function Way({ document }: { document: EconomyDocument }) {
  const channels = useChannels().data?.items;
  const live = channels?.some(({ name, release }) => name === 'live' && release !== null) ?? false;
  const steps = STEPS.map((step) => ({ ...step, done: step.isDone(document, live) }));
  if (!channels || steps.every(({ done }) => done)) return null;
  return (
    <Sheet title="The way to a first shop">
      <ol className="grid gap-x-6 gap-y-1 lg:grid-cols-3">
        {steps.map(({ words, help, to, done }) => (
          <li key={words} className="flex items-baseline gap-2">
            <span aria-hidden className={done ? 'text-verdigris' : 'text-soft'}>
              {done ? '✓' : '○'}
            </span>
            <span>
              <Link className="font-semibold underline decoration-line underline-offset-2" to={to}>
                {words}
              </Link>
              {done && <span className="sr-only"> (done)</span>}
              <span className="text-sm text-soft">: {help}</span>
            </span>
          </li>
        ))}
      </ol>
    </Sheet>
  );
}
