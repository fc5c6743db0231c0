/** Findings of the audit as people read them. */
import type { Finding, FindingCounts, Severity } from '../../core/audit/index.js';
import { Badge, Empty } from './ui.js';
import type { Tone } from './ui.js';

export const SEVERITY_TONE: Record<Severity, Tone> = { error: 'bad', warning: 'care', hint: 'quiet' };

export function Counts({ counts }: { counts: FindingCounts }) {
  const named = (count: number, word: string) => `${count} ${word}${count === 1 ? '' : 's'}`;
  return (
    <span className="inline-flex gap-1">
      <Badge tone={counts.error > 0 ? 'bad' : 'quiet'}>{named(counts.error, 'error')}</Badge>
      <Badge tone={counts.warning > 0 ? 'care' : 'quiet'}>{named(counts.warning, 'warning')}</Badge>
      <Badge>{named(counts.hint, 'hint')}</Badge>
    </span>
  );
}

export function FindingList({ findings }: { findings: readonly Finding[] }) {
  if (findings.length === 0) return <Empty>The audit finds nothing to mend.</Empty>;
  return (
    <ul className="divide-y divide-line/60">
      {findings.map(({ severity, code, subject, message, fix, pointer }) => (
        <li key={`${code} ${pointer} ${message}`} className="flex gap-3 py-2">
          <span className="shrink-0">
            <Badge tone={SEVERITY_TONE[severity]}>{severity}</Badge>
          </span>
          <div>
            <p>
              <strong>{subject}</strong>: {message}
            </p>
            <p className="text-sm text-soft">
              {fix} <code>{pointer}</code>
            </p>
          </div>
        </li>
      ))}
    </ul>
  );
}
