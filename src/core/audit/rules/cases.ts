/** Findings about what must stay true. */
import type { CaseDocument } from '../../document/index.js';
import { pointerOf } from '../../issue/index.js';
import type { AuditRule, RuleFinding } from '../finding.js';

type Expect = NonNullable<NonNullable<CaseDocument['steps']>[number]['expect']>;

/** Who does what and when, whatever must hold. */
const doneIn = ({ at, seed, player, steps = [] }: CaseDocument): string =>
  JSON.stringify([at, seed, player, steps.map(({ expect: _, ...step }) => step)]);

const codesOf = ({ verdict }: Expect): string | undefined =>
  verdict === undefined ? undefined : typeof verdict === 'string' ? verdict : [...verdict].sort().join();

/** A step, from 1, after which the two want different verdicts. */
function contradicted({ steps: some = [] }: CaseDocument, { steps: others = [] }: CaseDocument): number | undefined {
  const place = some.findIndex(({ expect }, step) => {
    const [one, other] = [expect, others[step]?.expect].map((wanted) => wanted && codesOf(wanted));
    return one !== undefined && other !== undefined && one !== other;
  });
  return place < 0 ? undefined : place + 1;
}

export const caseContradiction: AuditRule = {
  code: 'case-contradiction',
  severity: 'warning',
  help: 'Two cases that want different verdicts of the same steps cannot both hold.',
  find: ({ document }) => {
    const firsts = new Map<string, [id: string, CaseDocument]>();
    return Object.entries(document.cases ?? {}).flatMap(([id, one]): RuleFinding[] => {
      const key = doneIn(one);
      const [other, first] = firsts.get(key) ?? [];
      if (!first) firsts.set(key, [id, one]);
      const step = first && contradicted(one, first);
      if (step === undefined) return [];
      return [
        {
          pointer: pointerOf(['cases', id]),
          subject: `case ${one.name}`,
          message: `after step ${step} it wants another verdict than "${other!}", of the same player who does the same`,
          fix: 'Change what must hold in one of them, or remove it.',
        },
      ];
    });
  },
};
