/** Goals and levels: what a deed did for them, and how far a player is. Money is in smallest units. */
import type { GoalStanding, Progress, TrackStanding } from '../../core/progress/index.js';
import {
  anyNumber,
  anyText,
  anyWhole,
  either,
  exactly,
  isRecord,
  named,
  orNull,
  record,
  shapeOf,
  yesNo,
} from '../../core/schema/index.js';
import { amounts, listed, values } from './common.js';

type Of<K extends Progress['kind']> = Extract<Progress, { kind: K }>;
const is =
  (kind: Progress['kind']) =>
  (value: unknown): boolean =>
    isRecord(value) && value['kind'] === kind;
const count = () => anyNumber(-Number.MAX_VALUE, Number.MAX_VALUE);

const one = either<Progress>(
  [
    {
      fits: is('nearer'),
      schema: shapeOf<Of<'nearer'>>({
        kind: exactly('nearer'),
        goal: anyText(),
        name: anyText(),
        count: count(),
        target: count(),
        money: orNull(anyText()),
      }),
    },
    {
      fits: is('reached'),
      schema: shapeOf<Of<'reached'>>({
        kind: exactly('reached'),
        goal: anyText(),
        name: anyText(),
        count: count(),
        target: count(),
        money: orNull(anyText()),
        set: values(),
        given: amounts(),
        dropped: amounts(),
      }),
    },
    {
      fits: is('level'),
      schema: shapeOf<Of<'level'>>({
        kind: exactly('level'),
        track: anyText(),
        name: anyText(),
        level: anyWhole(),
        earned: anyWhole(),
        money: anyText(),
        given: amounts(),
        dropped: amounts(),
      }),
    },
    {
      fits: is('failed'),
      schema: shapeOf<Of<'failed'>>({ kind: exactly('failed'), goal: anyText(), name: anyText(), problem: anyText() }),
    },
  ],
  () => ({ problem: 'it is nothing that happens to a goal or a level', fix: 'See the schema.' }),
);
export const progress = () => listed('progress', one);

export const goals = () =>
  listed(
    'goals',
    named(
      'GoalStanding',
      shapeOf<GoalStanding>({
        goal: anyText(),
        name: anyText(),
        description: orNull(anyText()),
        count: count(),
        target: count(),
        money: orNull(anyText()),
        reached: yesNo(),
        gives: amounts(),
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
      }),
    ),
  );
