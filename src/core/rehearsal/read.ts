/** Steps as they are written, in files and requests, and as the rehearsal takes them. */
import { unitsParse } from '../amount/index.js';
import type { Basket } from '../amount/index.js';
import type { rehearsalFileSchema } from '../document/index.js';
import type { Economy } from '../economy/index.js';
import type { Value } from '../formula/index.js';
import { LAST_MS, FIRST_MS, instantRead, instantWritten } from '../schedule/index.js';
import type { ValueOf } from '../schema/index.js';
import { stepsProblems } from './rehearse.js';
import type { StepProblem } from './rehearse.js';
import { STEP_VERBS, VERBS } from './step.js';
import type { RehearsalStep } from './step.js';

export type RehearsalFile = ValueOf<typeof rehearsalFileSchema>;

/** One verb, and what may stand beside it. */
export interface WrittenStep {
  buy?: string;
  sell?: string;
  use?: string;
  open?: string;
  collect?: string;
  event?: string;
  play?: string;
  give?: Readonly<Record<string, number>>;
  take?: Readonly<Record<string, number>>;
  set?: Readonly<Record<string, Value>>;
  wait?: string;
  /** Local time, or with an offset. */
  until?: string;
  times?: number;
  pay?: string;
  shop?: string;
  fields?: Readonly<Record<string, Value>>;
  brings?: string;
}

export type StepsRead = { ok: true; steps: RehearsalStep[] } | { ok: false; problems: StepProblem[] };

/** `amounts`: as people write them (`2.50`), or in smallest units. All problems are told at once, and then nothing is taken. */
export function stepsRead(
  economy: Economy,
  written: readonly WrittenStep[],
  amounts: 'written' | 'smallest-units',
): StepsRead {
  const problems: StepProblem[] = [];
  const steps = written.flatMap((one, step): RehearsalStep[] => {
    const wrong = (message: string, fix: string): RehearsalStep[] => {
      problems.push({ step, message, fix });
      return [];
    };
    const verbs = VERBS.filter((verb) => one[verb] !== undefined);
    const [verb] = verbs;
    if (verb === undefined || verbs.length > 1)
      return wrong(
        verbs.length === 0 ? 'it says nothing to do' : `it says to ${verbs.join(' and to ')}`,
        `Write one of ${VERBS.join(', ')}.`,
      );
    const stray = (['times', 'pay', 'shop', 'fields', 'brings'] as const).filter(
      (name) => one[name] !== undefined && !STEP_VERBS[verb].includes(name),
    );
    if (stray.length > 0) return wrong(`${verb} has no ${stray.join(' and no ')}`, 'Leave it out.');
    if (verb === 'sell' && one.shop === undefined) return wrong('sell needs the shop', 'Write shop beside it.');
    if (verb === 'until') {
      const read = untilRead(economy.zone, one.until!);
      return typeof read === 'number' ? [{ until: read }] : wrong(read, 'Write it as 2027-03-01T09:00.');
    }
    if ((verb === 'give' || verb === 'take') && amounts === 'written') {
      const basket = basketRead(economy, one[verb]!);
      if ('message' in basket) return wrong(basket.message, basket.fix);
      return [verb === 'give' ? { give: basket.units } : { take: basket.units }];
    }
    return [one as RehearsalStep];
  });
  if (problems.length === 0) problems.push(...stepsProblems(economy, steps));
  return problems.length > 0 ? { ok: false, problems } : { ok: true, steps };
}

/** The instant that somebody wrote, or what is wrong with it. */
export function untilRead(zone: string, written: string): number | string {
  const read = /^\d{4}-/.test(written) ? instantRead(zone, written) : undefined;
  if (!read) return `"${written}" is not an instant`;
  if (read.ms < FIRST_MS || read.ms > LAST_MS) return `"${written}" is out of all calendars here`;
  if (read.matches === 0) return `clocks in ${zone} jump over ${written}`;
  if (read.matches === 2)
    return `clocks in ${zone} show ${written} twice: ${instantWritten(zone, read.ms)} or ${instantWritten(zone, read.secondMs!)}`;
  return read.ms;
}

/** In smallest units, or what is wrong with it. */
export function basketRead(
  economy: Economy,
  written: Readonly<Record<string, number>>,
): { units: Basket } | { message: string; fix: string } {
  const basket: Basket = {};
  for (const asset in written) {
    const decimals = economy.currencies.get(asset)?.decimals ?? 0;
    const read = unitsParse(written[asset]!, decimals);
    if (!read.ok) return { message: `${asset}: ${read.message}`, fix: read.fix };
    basket[asset] = read.units;
  }
  return { units: basket };
}
