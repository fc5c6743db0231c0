/** What a draft without a scenario says where one would be played. */
import { Link } from 'react-router';
import { Empty } from '../parts/ui.js';

export const NoScenario = () => (
  <Empty>
    The draft has no scenario: how many players of which kinds, and how long. Make one in{' '}
    <Link className="underline" to="/economy?section=scenarios">
      Economy, Scenarios
    </Link>
    .
  </Empty>
);
