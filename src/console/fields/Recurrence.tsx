/** How often something comes again: every so many days, weeks, months or years, on days of the week; or a rule as it is written. */
import { useState } from 'react';
import { Choice, Field, Input, Why } from '../parts/ui.js';
import { FREQUENCIES, FREQUENCY_OPTIONS } from './frequency.js';
import type { Frequency } from './frequency.js';
import { ifShown } from './leaving.js';
import { useTyped } from './useTyped.js';

const ONCE = 'once';
const OWN = 'a rule';
const DAYS = {
  MO: 'Monday',
  TU: 'Tuesday',
  WE: 'Wednesday',
  TH: 'Thursday',
  FR: 'Friday',
  SA: 'Saturday',
  SU: 'Sunday',
} as const;
type Day = keyof typeof DAYS;
const isDay = (text: string): text is Day => text in DAYS;

interface Plain {
  frequency: Frequency;
  interval: number;
  days: readonly Day[];
}

/** A rule of these parts alone; undefined for one that says more. */
function plainOf(rule: string): Plain | undefined {
  const parts = new Map(rule.split(';').map((part) => part.split('=') as [string, string]));
  const frequency = parts.get('FREQ') ?? '';
  const days = (parts.get('BYDAY') ?? '').split(',').filter(Boolean);
  const isPlain =
    frequency in FREQUENCIES &&
    days.every(isDay) &&
    [...parts.keys()].every((name) => ['FREQ', 'INTERVAL', 'BYDAY'].includes(name)) &&
    (days.length === 0 || frequency === 'WEEKLY');
  return isPlain
    ? { frequency: frequency as Frequency, interval: Number(parts.get('INTERVAL') ?? 1), days: days as Day[] }
    : undefined;
}

const ruleOf = ({ frequency, interval, days }: Plain): string =>
  [
    `FREQ=${frequency}`,
    ...(interval > 1 ? [`INTERVAL=${interval}`] : []),
    ...(days.length > 0 && frequency === 'WEEKLY' ? [`BYDAY=${days.join(',')}`] : []),
  ].join(';');

export function Recurrence({
  label,
  help,
  value,
  onKeep,
}: {
  label: string;
  help: string | undefined;
  value: string | undefined;
  /** Undefined: it does not come again. */
  onKeep: (rule: string | undefined) => void;
}) {
  const [own, setOwn] = useState(false);
  const plain = value === undefined ? undefined : plainOf(value);
  const isOwn = own || (value !== undefined && !plain);
  const put = (part: Partial<Plain>): void =>
    onKeep(ruleOf({ frequency: 'DAILY', interval: 1, days: [], ...plain, ...part }));
  return (
    <div className="flex min-w-0 flex-col gap-1">
      <Field label={label} help={help}>
        {(id) => (
          <Choice
            id={id}
            value={isOwn ? OWN : (plain?.frequency ?? ONCE)}
            options={[
              { value: ONCE, label: 'once' },
              ...FREQUENCY_OPTIONS,
              { value: OWN, label: 'by a rule of its own' },
            ]}
            onChange={(next) => {
              setOwn(next === OWN);
              if (next === ONCE) onKeep(undefined);
              else if (next !== OWN) put({ frequency: next as Frequency });
            }}
          />
        )}
      </Field>
      {isOwn ? (
        <Rule label={`${label}: the rule`} value={value ?? ''} onKeep={onKeep} />
      ) : (
        plain && (
          <>
            <Interval
              label={`${label}: every so many ${FREQUENCIES[plain.frequency].many}`}
              unit={FREQUENCIES[plain.frequency].many}
              value={plain.interval}
              onKeep={(interval) => put({ interval })}
            />
            {plain.frequency === 'WEEKLY' && (
              <span className="flex flex-wrap gap-1" role="group" aria-label={`${label}: on`}>
                {(Object.keys(DAYS) as Day[]).map((day) => {
                  const isOn = plain.days.includes(day);
                  return (
                    <button
                      key={day}
                      type="button"
                      aria-pressed={isOn}
                      title={DAYS[day]}
                      className={`rounded-tag border border-line px-2 py-0.5 text-sm font-semibold ${isOn ? 'bg-ink text-paper' : 'bg-sheet'}`}
                      onClick={() => {
                        const days = (Object.keys(DAYS) as Day[]).filter(
                          (one) => plain.days.includes(one) !== (one === day),
                        );
                        put({ days });
                      }}
                    >
                      {DAYS[day].slice(0, 3)}
                    </button>
                  );
                })}
              </span>
            )}
          </>
        )
      )}
    </div>
  );
}

function Interval({
  label,
  unit,
  value,
  onKeep,
}: {
  label: string;
  unit: string;
  value: number;
  onKeep: (value: number) => void;
}) {
  const field = useTyped(String(value), (typed) => {
    const next = Number(typed);
    if (!Number.isInteger(next) || next < 1 || next > 999) return 'Write a whole number from 1 to 999.';
    onKeep(next);
    return undefined;
  });
  return (
    <span className="flex flex-wrap items-center gap-2 text-sm">
      every
      <Input
        aria-label={label}
        aria-invalid={field.problem !== undefined}
        className="w-16 py-0.5 text-right"
        inputMode="numeric"
        value={field.shown}
        onChange={({ target }) => field.type(target.value)}
        onBlur={ifShown(field.keep)}
        onKeyDown={field.onKeyDown}
      />
      {unit}
      <Why problem={field.problem} />
    </span>
  );
}

/** As calendars write it (RFC 5545). */
function Rule({ label, value, onKeep }: { label: string; value: string; onKeep: (rule: string | undefined) => void }) {
  const field = useTyped(value, (typed) => {
    onKeep(typed.trim() || undefined);
    return undefined;
  });
  return (
    <Input
      aria-label={label}
      placeholder="such as FREQ=MONTHLY;BYDAY=1SA"
      value={field.shown}
      onChange={({ target }) => field.type(target.value)}
      onBlur={ifShown(field.keep)}
      onKeyDown={field.onKeyDown}
    />
  );
}
