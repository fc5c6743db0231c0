/** Targets that can be measured: each with all that its measure needs, and nothing that names nothing. */
import { MEASURES } from '../document/index.js';
import type { TargetDocument } from '../document/index.js';
import type { Measured, Target } from './playTypes.js';
import type { DocumentReader } from './reader.js';

/** What a target lacks, by field; `from` stands for a bound. */
export function targetLacks(written: TargetDocument): string[] {
  const lacks: string[] = MEASURES[written.measure].needs.filter((field) => written[field] === undefined);
  return written.from === undefined && written.to === undefined ? [...lacks, 'from'] : lacks;
}

const MEDIAN = 50;

export function targetsCompile({ document, dangling }: DocumentReader): Map<string, Target> {
  const written = Object.entries(document.targets ?? {});
  if (written.length === 0) return new Map();
  const lost = new Set(dangling.flatMap(({ path }) => (path[0] === 'targets' ? [path[1]!] : [])));
  return new Map(
    written.flatMap(([id, target]) =>
      lost.has(id) || targetLacks(target).length > 0
        ? []
        : [
            [
              id,
              {
                ...measured(target),
                id,
                name: target.name,
                scenario: target.scenario,
                persona: MEASURES[target.measure].may.some((field) => field === 'persona') ? target.persona : undefined,
                from: target.from,
                to: target.to,
              },
            ],
          ],
    ),
  );
}

/** Of a target that lacks nothing. */
function measured({ measure, percentile = MEDIAN, ...written }: TargetDocument): Measured {
  const [item, currency] = [written.item!, written.currency!];
  switch (measure) {
    case 'days-to-own':
    case 'days-to-afford':
      return { measure, item, percentile };
    case 'days-to-goal':
      return { measure, goal: written.goal!, percentile };
    case 'days-to-level':
      return { measure, track: written.track!, level: written.level!, percentile };
    case 'owners':
      return { measure, item, day: written.day };
    case 'wallet':
      return { measure, currency, percentile, day: written.day };
    case 'net-flow':
    case 'prices':
      return { measure, currency };
    case 'refused':
      return { measure, reason: written.reason! };
    case 'pay':
      return { measure, currency, activity: written.activity!, than: written.than! };
  }
}
