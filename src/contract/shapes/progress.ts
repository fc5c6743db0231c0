/** Goals and levels: what a deed did for them, and how far a player is. Money is in smallest units. */
import type { GoalStanding, Progress, TrackStanding } from '../../core/progress/index.js';
import {
  anyKeys,
  anyNumber,
  anyText,
  anyWhole,
  exactly,
  mapOf,
  maybe,
  named,
  orNull,
  record,
  shapeOf,
  tagged,
  yesNo,
} from '../../core/schema/index.js';
import { amounts, listed, values } from './common.js';

const count = () => anyNumber(-Number.MAX_VALUE, Number.MAX_VALUE);
const counted = () => ({ goal: anyText(), name: anyText(), count: count(), target: count(), money: orNull(anyText()) });

const together = () => ({ team: anyText(), teamName: anyText(), ...counted() });
/** By team, where something went to one. */
export const shared = () => maybe(mapOf(amounts(), anyKeys));

const one = tagged<Progress>('kind', {
  nearer: record({ kind: exactly('nearer'), ...counted() }),
  reached: record({
    kind: exactly('reached'),
    ...counted(),
    set: values(),
    given: amounts(),
    dropped: amounts(),
    shared: shared(),
  }),
  'team-nearer': record({ kind: exactly('team-nearer'), ...together() }),
  'team-reached': record({ kind: exactly('team-reached'), ...together(), given: amounts(), dropped: amounts() }),
  level: record({
    kind: exactly('level'),
    track: anyText(),
    name: anyText(),
    level: anyWhole(),
    earned: anyWhole(),
    money: anyText(),
    given: amounts(),
    dropped: amounts(),
  }),
  failed: record({ kind: exactly('failed'), goal: anyText(), name: anyText(), problem: anyText() }),
});
export const progress = () => listed('progress', one);

export const goals = () =>
  listed(
    'goals',
    named(
      'GoalStanding',
      shapeOf<GoalStanding>({
        goal: anyText(),
        name: anyText(),
        team: orNull(record({ id: anyText(), name: anyText() })),
        description: orNull(anyText()),
        count: count(),
        target: count(),
        money: orNull(anyText()),
        reached: yesNo(),
        gives: amounts(),
        waitsFor: maybe(record({ goal: anyText(), name: anyText() })),
        told: maybe(anyText()),
      }),
    ),
  );
export const tracks = () =>
  listed(
    'tracks',
    named(
      'TrackStanding',
      shapeOf<TrackStanding>({
        track: anyText(),
        name: anyText(),
        level: anyWhole(),
        earned: anyWhole(),
        money: anyText(),
        next: orNull(record({ level: anyWhole(), from: anyWhole() })),
        told: maybe(anyText()),
      }),
    ),
  );
