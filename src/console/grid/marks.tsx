/** What stands in a cell beside its text: findings of the audit, pictures, the value of a formula. */
import { useMemo } from 'react';
import type { Finding } from '../../core/audit/index.js';
import { SEVERITY_TONE } from '../parts/findings.js';
import { Icon } from '../parts/Icon.js';
import { Badge, Hint } from '../parts/ui.js';
import type { GridColumn, GridRow } from './columns.js';

type ByField = Map<string, Finding[]>;

/** Row pointer to field to findings; those about the row as a whole stand under the empty field. */
export function useFindingsByRow(findings: readonly Finding[], rows: readonly GridRow[]): Map<string, ByField> {
  return useMemo(() => {
    const known = new Set(rows.map(({ pointer }) => pointer));
    const result = new Map<string, ByField>();
    for (const finding of findings) {
      if (finding.silenced !== undefined) continue;
      const segments = finding.pointer.split('/');
      for (let length = segments.length; length > 1; length--) {
        const pointer = segments.slice(0, length).join('/');
        if (!known.has(pointer)) continue;
        const field = segments[length] ?? '';
        const fields: ByField = result.get(pointer) ?? new Map();
        fields.set(field, [...(fields.get(field) ?? []), finding]);
        result.set(pointer, fields);
        break;
      }
    }
    return result;
  }, [findings, rows]);
}

export function FindingMark({ findings }: { findings: readonly Finding[] }) {
  return (
    <Hint
      text={findings.map(({ code, message, fix }) => (
        <p key={code + message}>
          {message}. {fix}
        </p>
      ))}
    >
      <button
        type="button"
        tabIndex={-1}
        className="mr-1"
        aria-label={findings.map(({ message }) => message).join('; ')}
      >
        <Badge tone={SEVERITY_TONE[findings[0]!.severity]}>!</Badge>
      </button>
    </Hint>
  );
}

export function Value({
  text,
  column,
  row,
  values,
}: {
  text: string;
  column: GridColumn;
  row: GridRow;
  values: ReadonlyMap<string, string> | undefined;
}) {
  if (column.field === 'icon') return <Icon icon={text} />;
  const at = `${row.pointer}/${column.field}`;
  const worked =
    values && text.includes('=')
      ? [...values].filter(([pointer]) => pointer === at || pointer.startsWith(`${at}/`))
      : [];
  if (worked.length === 0) return <>{text}</>;
  // The value stands first: a long formula may be cut off.
  return (
    <>
      <span className="rounded-tag bg-tint-verdigris px-1 text-verdigris">
        {worked.map(([, value]) => value).join('; ')}
      </span>{' '}
      {text}
    </>
  );
}
