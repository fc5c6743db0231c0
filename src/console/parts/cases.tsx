/** What came of cases: marks, and what does not hold, with the save that did it. */
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { CaseView, CasesView } from '../../contract/index.js';
import { caseLines } from '../../core/texts/rehearsed.js';
import { client, useCases } from '../api.js';
import { caseLink } from './findings.js';
import { Badge } from './ui.js';

type State = CaseView['state'];
const STATES: Record<State, { words: string; tone: 'good' | 'bad' | 'care' }> = {
  holds: { words: 'holds', tone: 'good' },
  broken: { words: 'broken', tone: 'bad' },
  unplayable: { words: 'cannot be played', tone: 'care' },
};

export const CaseMark = ({ state }: { state: State }) => <Badge tone={STATES[state].tone}>{STATES[state].words}</Badge>;

/** How many of each state that there are any of. */
export function CaseCounts({ counts }: { counts: CasesView['counts'] }) {
  const some = (Object.keys(STATES) as State[]).filter((state) => counts[state] > 0);
  return (
    <span className="inline-flex gap-1">
      {some.length === 0 && <Badge>none yet</Badge>}
      {some.map((state) => (
        <Badge key={state} tone={STATES[state].tone}>
          {counts[state]} {state === 'holds' && counts[state] !== 1 ? 'hold' : STATES[state].words}
        </Badge>
      ))}
    </span>
  );
}

export const brokenOnes = (view: CasesView | undefined): CaseView[] =>
  view?.cases.filter(({ state }) => state !== 'holds') ?? [];

/** Lines of one, before the rest is only counted. */
const MOST_LINES = 3;

/** Cases that do not hold: what was expected and found, and which save did it. */
export function BrokenCases({ cases, brief = false }: { cases: readonly CaseView[]; brief?: boolean }) {
  return (
    <ul className="divide-y divide-line/60">
      {cases.map((one) => (
        <li key={one.id} className="flex flex-wrap gap-x-3 py-2">
          <span className="shrink-0">
            <CaseMark state={one.state} />
          </span>
          <div className="min-w-64 flex-1">
            <Link className="font-semibold underline decoration-line underline-offset-2" to={caseLink(one.id)}>
              {one.name}
            </Link>
            <WhyBroken one={one} brief={brief} />
          </div>
        </li>
      ))}
    </ul>
  );
}

/** `brief`: the first line, and since when. */
export function WhyBroken({ one, brief = false }: { one: CaseView; brief?: boolean }) {
  const lines = caseLines(one);
  const most = brief ? 1 : MOST_LINES;
  return (
    <>
      <ul className="text-sm">
        {lines.slice(0, most).map((line) => (
          <li key={line}>{line}</li>
        ))}
        {lines.length > most && <li className="text-soft">and {lines.length - most} more</li>}
      </ul>
      {one.since && (
        <dl className="mt-1 grid grid-cols-[auto_1fr] gap-x-2 text-sm text-soft">
          <dt>since</dt>
          <dd>
            revision {one.since.revision} by {one.since.savedBy}: {one.since.why}
          </dd>
          {one.since.before !== null && !brief && (
            <>
              <dt>before it</dt>
              <dd>{one.since.before}</dd>
            </>
          )}
          {one.since.now !== null && !brief && (
            <>
              <dt>now</dt>
              <dd>{one.since.now}</dd>
            </>
          )}
        </dl>
      )}
    </>
  );
}

/** What does not hold in a release; nothing where all of it does. */
export function BrokenIn({ release }: { release: number }) {
  // A release never changes.
  const { data } = useQuery({
    queryKey: ['cases of', release],
    queryFn: () => client.call('GET /cases', { query: { source: String(release) } }),
    staleTime: Infinity,
  });
  const broken = brokenOnes(data);
  if (broken.length === 0) return null;
  const lines = broken.flatMap((one) => [one.name, ...caseLines(one)]);
  return (
    <span title={lines.join('\n')}>
      <Badge tone="bad">
        {broken.length} {broken.length === 1 ? 'case' : 'cases'} broken
      </Badge>
    </span>
  );
}

/** Says in every room that a case does not hold any more. */
export function BrokenMark() {
  const broken = brokenOnes(useCases().data);
  if (broken.length === 0) return null;
  const [first] = broken;
  return (
    <Link
      to={broken.length === 1 ? caseLink(first!.id) : '/shops?mode=cases'}
      title={broken.map(({ name }) => name).join('\n')}
    >
      <Badge tone="bad">
        {broken.length} {broken.length === 1 ? 'case' : 'cases'} broken
      </Badge>
    </Link>
  );
}
