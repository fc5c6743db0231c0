/** Findings about what balancing works with: targets that cannot be held against a run, and levers that move nothing. */
import { MEASURES, TARGET_FIELDS } from '../../document/index.js';
import type { TargetDocument } from '../../document/index.js';
import { targetLacks } from '../../economy/index.js';
import type { Scenario, Target } from '../../economy/index.js';
import { nearestName, pointerOf } from '../../issue/index.js';
import { leverIssues, leverOf } from '../../levers/index.js';
import { REASON_CODES } from '../../trade/index.js';
import type { AuditRule, RuleFinding } from '../finding.js';

const about = (id: string, { name }: { name: string }) => ({
  pointer: pointerOf(['targets', id]),
  subject: `target ${name}`,
});

const LACKS: Readonly<Record<string, string>> = {
  from: 'a bound: from, to, or both',
  than: 'the activity that it is held against',
};

export const targetIncomplete: AuditRule = {
  code: 'target-incomplete',
  severity: 'warning',
  help: 'A target that lacks what its measure needs, or has what it does not, says nothing of a run.',
  find: ({ document }) =>
    Object.entries(document.targets ?? {}).flatMap(([id, target]): RuleFinding[] => {
      const { words, needs, may } = MEASURES[target.measure];
      const known: readonly string[] = [...needs, ...may];
      const lacks = targetLacks(target).map((field) => LACKS[field] ?? `the ${field}`);
      const spare = TARGET_FIELDS.filter((field) => target[field] !== undefined && !known.includes(field));
      return [
        ...lacks.map((lack) => ({
          ...about(id, target),
          message: `"${words}" needs ${lack}`,
          fix: 'Fill it in, or pick another measure.',
        })),
        ...spare.map((field) => ({
          ...about(id, target),
          pointer: pointerOf(['targets', id, field]),
          message: `"${words}" does not look at its ${field}`,
          fix: `Remove it, or pick another measure.`,
        })),
        ...reasonUnknown(target).map((reason) => ({ ...about(id, target), ...reason })),
      ];
    }),
};

function reasonUnknown({ measure, reason }: TargetDocument): { message: string; fix: string }[] {
  if (measure !== 'refused' || reason === undefined || (REASON_CODES as readonly string[]).includes(reason)) return [];
  const near = nearestName(reason, [...REASON_CODES]);
  return [
    {
      message: `nothing is ever refused for "${reason}"`,
      fix: near ? `Did you mean "${near}"?` : `Reasons: ${REASON_CODES.join(', ')}.`,
    },
  ];
}

/** All that must be the same for two targets to be of one figure. */
const figureOf = ({ id: _, name: __, from: ___, to: ____, scenario: _____, ...figure }: Target): string =>
  JSON.stringify(figure);

const meet = (one: Target, other: Target): boolean =>
  (one.scenario === undefined || other.scenario === undefined || one.scenario === other.scenario) &&
  figureOf(one) === figureOf(other);

export const targetContradiction: AuditRule = {
  code: 'target-contradiction',
  severity: 'warning',
  help: 'Two targets that want different things of one figure cannot both be met.',
  find: ({ economy }) => {
    const targets = [...economy.targets.values()];
    return targets.flatMap((target, place) =>
      targets
        .slice(0, place)
        .filter(
          (other) =>
            meet(target, other) &&
            Math.max(target.from ?? -Infinity, other.from ?? -Infinity) >
              Math.min(target.to ?? Infinity, other.to ?? Infinity),
        )
        .map((other) => ({
          ...about(target.id, target),
          message: `it cannot be met together with "${other.name}": no figure is within the bounds of both`,
          fix: 'Change the bounds of one, or give each its scenario.',
        })),
    );
  },
};

/** Why a run of the scenario cannot tell of a target. */
function unseen(target: Target, { days, mix }: Scenario): string | undefined {
  if (target.persona !== undefined && !mix.some(({ persona, weight }) => persona === target.persona && weight > 0))
    return 'its persona does not play';
  const wanted = 'day' in target ? target.day : MEASURES[target.measure].unit === 'days' ? target.to : undefined;
  return wanted !== undefined && wanted > days ? `it has ${days} days only` : undefined;
}

export const targetNeverSeen: AuditRule = {
  code: 'target-never-seen',
  severity: 'warning',
  help: 'A target that no scenario can tell of: its persona plays in none, or its day lies behind the last.',
  find: ({ economy }) => {
    const all = [...economy.scenarios.values()];
    return [...economy.targets.values()].flatMap((target): RuleFinding[] => {
      const scenarios = all.filter(({ id }) => target.scenario === undefined || target.scenario === id);
      const why = scenarios.map((scenario) => unseen(target, scenario));
      if (scenarios.length === 0 || why.includes(undefined)) return [];
      return [
        {
          ...about(target.id, target),
          message: `no run tells of it: in ${scenarios[0]!.name} ${why[0]}`,
          fix: 'Let its persona play in a scenario that is long enough, or change the target.',
        },
      ];
    });
  },
};

/** Bounds that only all players there could ever be would show to be met, by measure of a part of them. */
const ABSOLUTE: readonly { measure: Target['measure']; bound: 'from' | 'to'; value: number; write: string }[] = [
  { measure: 'refused', bound: 'to', value: 0, write: '0.5' },
  { measure: 'owners', bound: 'to', value: 0, write: '0.5' },
  { measure: 'refused', bound: 'from', value: 100, write: '99.5' },
  { measure: 'owners', bound: 'from', value: 100, write: '99.5' },
];

export const targetNeverDecided: AuditRule = {
  code: 'target-never-decided',
  severity: 'hint',
  help: 'A target of nobody at all, or of everybody, can be missed, but no number of players shows that it is met.',
  find: ({ economy }) =>
    [...economy.targets.values()].flatMap((target) =>
      ABSOLUTE.filter(({ measure, bound, value }) => target.measure === measure && target[bound] === value).map(
        ({ bound, value, write }) => ({
          ...about(target.id, target),
          pointer: pointerOf(['targets', target.id, bound]),
          message: `${bound} ${value} stays undecided: some who play say nothing for sure of all who might`,
          fix: `Write what would still be well, such as ${write}.`,
        }),
      ),
    ),
};

export const leverWithoutEffect: AuditRule = {
  code: 'lever-without-effect',
  severity: 'warning',
  help: 'A lever that leads to nothing, to a text, or has no way to go.',
  find: ({ document }) =>
    Object.entries(document.levers ?? {}).flatMap(([id, written]) => {
      const lever = leverOf(document, id, written);
      return leverIssues(document, lever, ['levers', id]).map(({ message, fix, pointer }) => ({
        pointer,
        subject: `lever ${lever.name}`,
        message: message.slice(lever.name.length + 2),
        fix,
      }));
    }),
};
