/** Findings of the audit as people read them, with the ways out that can be taken here. */
import { Fragment, useState } from 'react';
import { Link } from 'react-router';
import type { Operation } from 'fast-json-patch';
import type { Finding, FindingCounts, Severity } from '../../core/audit/index.js';
import type { EconomyDocument } from '../../core/document/index.js';
import { pointerSegments } from '../../core/issue/index.js';
import { useDraft } from '../api.js';
import { useEdits } from './edits.js';
import { Badge, Button, Empty, Input } from './ui.js';
import type { Tone } from './ui.js';

export const SEVERITY_TONE: Record<Severity, Tone> = { error: 'bad', warning: 'care', hint: 'quiet' };

/** Where a case is looked at and changed. */
export const caseLink = (id: string): string => `/shops?mode=cases&open=${encodeURIComponent(`/cases/${id}`)}`;

/** Where in the console a place of the document is edited. */
export function placeLink(pointer: string): string {
  const [section, id, , shelf, , offer] = pointerSegments(pointer);
  if (section === 'sales') return `/calendar?open=${encodeURIComponent(`/sales/${id}`)}`;
  if (section === 'texts') return `/catalog?view=texts&language=${id}&show=missing`;
  if (section === 'shops')
    return `/shops?mode=arrange&shop=${id}${offer ? `&open=${encodeURIComponent(pointer.split('/').slice(0, 7).join('/'))}` : shelf ? `&open=${encodeURIComponent(pointer.split('/').slice(0, 5).join('/'))}` : ''}`;
  if (section === 'cases') return caseLink(id!);
  if (section === 'loot') return `/loot?table=${id}`;
  if (section === 'items' || section === 'currencies' || section === 'groups' || section === 'stores')
    return `/catalog?view=${section}&open=${encodeURIComponent(`/${section}/${id}`)}`;
  const here = OF_THE_ECONOMY.find((one) => one === section);
  return here ? sectionLink(here, `/${here}/${id}`) : '/settings';
}

/** Sections of the room Earning, in the order of the work. */
export const OF_EARNING = ['events', 'attributes', 'earning', 'goals', 'tracks', 'teams', 'rankings'] as const;

/** Sections of Simulate, in the order of the work. */
export const OF_PLAY = ['activities', 'personas', 'scenarios', 'targets', 'levers'] as const;

/** Sections that are lists with a form. */
export const OF_THE_ECONOMY = [...OF_EARNING, ...OF_PLAY] as const;

/** Where a section is made, with the thing that is open. */
export function sectionLink(section: (typeof OF_THE_ECONOMY)[number], open = ''): string {
  const query = `section=${section}${open === '' ? '' : `&open=${encodeURIComponent(open)}`}`;
  return OF_EARNING.some((one) => one === section) ? `/earning?${query}` : `/simulate?view=made&${query}`;
}

const TONES_OF_COUNTS = { error: 'bad', warning: 'care', hint: 'quiet' } as const;

/** How many of each severity that there are any of. */
export function Counts({ counts }: { counts: FindingCounts }) {
  const some = (['error', 'warning', 'hint'] as const).filter((severity) => counts[severity] > 0);
  return (
    <span className="inline-flex gap-1">
      {some.length === 0 && <Badge>no findings</Badge>}
      {some.map((severity) => (
        <Badge key={severity} tone={TONES_OF_COUNTS[severity]}>
          {counts[severity]} {severity}
          {counts[severity] === 1 ? '' : 's'}
        </Badge>
      ))}
    </span>
  );
}

/** Findings of one kind that are shown at first, and with each time that more are asked for. */
const FEW = 4;
const MORE = 100;
/** Where no more than these would be left out, none are. */
const ALMOST_ALL = 2;

const isOpen = ({ silenced }: Finding): boolean => silenced === undefined;

/** By what they are about, in their order: the worst first. */
function byKind(findings: readonly Finding[]): [code: string, ones: Finding[]][] {
  const kinds = new Map<string, Finding[]>();
  for (const finding of findings) {
    const ones = kinds.get(finding.code);
    if (ones) ones.push(finding);
    else kinds.set(finding.code, [finding]);
  }
  return [...kinds];
}

/** So many, each of another kind as far as there are so many kinds. */
export function foremost(findings: readonly Finding[], most: number): Finding[] {
  const open = findings.filter(isOpen);
  const firsts = byKind(open).map(([, [first]]) => first!);
  const picked = [...new Set([...firsts, ...open])].slice(0, most);
  return open.filter((finding) => picked.includes(finding));
}

export function FindingList({ findings }: { findings: readonly Finding[] }) {
  const [all, setAll] = useState(false);
  const [asked, setAsked] = useState<Readonly<Record<string, number>>>({});
  const silenced = findings.filter((finding) => !isOpen(finding)).length;
  const kinds = byKind(all ? findings : findings.filter(isOpen));
  return (
    <>
      {kinds.length === 0 ? (
        <Empty>The audit finds nothing to mend.</Empty>
      ) : (
        <ul className="divide-y divide-line/60">
          {kinds.map(([code, ones]) => {
            const most = FEW + (asked[code] ?? 0);
            const shown = ones.length <= most + ALMOST_ALL ? ones : ones.slice(0, most);
            return (
              <Fragment key={code}>
                {shown.map((finding) => (
                  <FindingRow key={`${code} ${finding.pointer} ${finding.message}`} finding={finding} />
                ))}
                {shown.length < ones.length && (
                  <li className="py-2 text-right">
                    <Button
                      className="py-0 text-sm"
                      onClick={() => setAsked({ ...asked, [code]: (asked[code] ?? 0) + MORE })}
                    >
                      {ones.length - shown.length} more of this kind
                    </Button>
                  </li>
                )}
              </Fragment>
            );
          })}
        </ul>
      )}
      {silenced > 0 && (
        <Button className="mt-2 py-0 text-sm" onClick={() => setAll(!all)} aria-pressed={all}>
          {all ? 'Hide' : 'Show'} {silenced} silenced
        </Button>
      )}
    </>
  );
}

function FindingRow({ finding }: { finding: Finding }) {
  const { severity, code, subject, message, fix, pointer, mend, silenced } = finding;
  const { apply } = useEdits();
  const document = useDraft().data?.document;
  const [asking, setAsking] = useState(false);
  const take = (operations: Operation[], why: string) => apply({ operations, why });
  return (
    <li className="flex flex-wrap gap-x-3 gap-y-1 py-2">
      <span className="shrink-0">
        <Badge tone={SEVERITY_TONE[severity]}>{severity}</Badge>
      </span>
      <div className="min-w-64 flex-1">
        <p>
          <Link
            className="font-semibold underline decoration-line underline-offset-2 hover:decoration-copper"
            to={placeLink(pointer)}
          >
            {subject}
          </Link>
          : {message}
        </p>
        <p className="text-sm text-soft">
          {fix} <code className="break-all">{pointer}</code>
        </p>
        {silenced !== undefined && <p className="text-sm">Silenced: {silenced}</p>}
        {asking && document && (
          <Silence
            onDrop={() => setAsking(false)}
            onKeep={(why) => {
              take(silence(document, `${code} ${pointer}`, why), `silenced ${code}`);
              setAsking(false);
            }}
          />
        )}
      </div>
      <span className="ml-auto flex flex-wrap items-start justify-end gap-1">
        {mend && (
          <Button
            className="py-0 text-sm"
            onClick={() => take(mend.operations as Operation[], `mended ${code}: ${mend.words}`)}
            title={mend.words}
          >
            Mend: {mend.words}
          </Button>
        )}
        {severity === 'hint' && silenced === undefined && !asking && code !== 'silence-without-effect' && (
          <Button className="py-0 text-sm" onClick={() => setAsking(true)} aria-label={`Silence ${code} of ${subject}`}>
            Silence
          </Button>
        )}
      </span>
    </li>
  );
}

/** The operations that note a silence, groups that are not there yet included. */
function silence(document: EconomyDocument, key: string, why: string): Operation[] {
  const path = `/audit/silenced/${key.replace(/~/g, '~0').replace(/\//g, '~1')}`;
  return [
    ...(document.audit ? [] : [{ op: 'add' as const, path: '/audit', value: {} }]),
    ...(document.audit?.silenced ? [] : [{ op: 'add' as const, path: '/audit/silenced', value: {} }]),
    { op: 'add', path, value: why },
  ];
}

function Silence({ onKeep, onDrop }: { onKeep: (why: string) => void; onDrop: () => void }) {
  const [why, setWhy] = useState('');
  return (
    <form
      className="mt-1 flex gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (why.trim() !== '') onKeep(why.trim());
      }}
    >
      <Input
        autoFocus
        aria-label="Why it is fine"
        placeholder="Why it is fine"
        value={why}
        onChange={(event) => setWhy(event.target.value)}
        className="flex-1"
      />
      <Button type="submit" disabled={why.trim() === ''}>
        Silence it
      </Button>
      <Button onClick={onDrop}>Drop</Button>
    </form>
  );
}
