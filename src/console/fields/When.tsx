/** A date, or a date and a time on 24 hours, in the economy's zone: typed, or the day picked. */
import { useRef, useState } from 'react';
import { Button, Input, Why } from '../parts/ui.js';
import { ifShown } from './leaving.js';

/** `2027-04-26 18:00` as it is kept; what is written otherwise is left to the service to judge. */
const kept = (text: string): string => text.trim().replace(/^(\d{4}-\d\d-\d\d)\s+(?=\d)/, '$1T');
const shown = (value: string): string => value.replace(/^(\d{4}-\d\d-\d\d)T(?=\d)/, '$1 ');

const FITS = /^\d{4}-\d\d-\d\d(?:T(?:[01]\d|2[0-3]):[0-5]\d(?::[0-5]\d)?(?:Z|[+-]\d\d:\d\d)?|T24:00)?$/;

export function When({
  id,
  value,
  withTime,
  zone,
  describedBy,
  onKeep,
}: {
  id: string;
  value: string | undefined;
  withTime: boolean;
  /** Told beside it, where nothing else on the page does. */
  zone?: string;
  describedBy?: string | undefined;
  onKeep: (value: string | undefined) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | undefined>();
  const day = useRef<HTMLInputElement>(null);
  const text = typed ?? shown(value ?? '');
  const keep = (written: string): void => {
    const next = kept(written);
    const fits = next === '' || FITS.test(next);
    setProblem(fits ? undefined : `Write it as 2027-04-26${withTime ? ' 18:00' : ''}.`);
    setTyped(fits ? null : written);
    if (fits && next !== (value ?? '')) onKeep(next === '' ? undefined : next);
  };
  return (
    <>
      <span className="flex items-center gap-1">
        <Input
          id={id}
          className="min-w-0 flex-1"
          placeholder={withTime ? '2027-04-26 18:00' : '2027-04-26'}
          value={text}
          aria-invalid={problem !== undefined}
          aria-describedby={describedBy}
          onChange={(event) => setTyped(event.target.value)}
          onBlur={ifShown(() => typed !== null && keep(typed))}
          onKeyDown={(event) => {
            if (event.key === 'Enter' && typed !== null) {
              // It is kept; what it stands in is not sent yet.
              event.preventDefault();
              keep(typed);
            }
            if (event.key === 'Escape' && (typed !== null || problem !== undefined)) {
              event.stopPropagation();
              setTyped(null);
              setProblem(undefined);
            }
          }}
        />
        <span className="relative">
          <Button className="px-2 py-0.5" aria-label="Pick the day" onClick={() => day.current?.showPicker()}>
            <span aria-hidden>▦</span>
          </Button>
          <input
            ref={day}
            type="date"
            tabIndex={-1}
            aria-hidden
            className="pointer-events-none absolute inset-0 opacity-0"
            value={/^\d{4}-\d\d-\d\d/.exec(value ?? '')?.[0] ?? ''}
            onChange={(event) => {
              const { value: picked } = event.target;
              if (picked !== '') keep(`${picked}${withTime ? (/T.*$/.exec(value ?? '')?.[0] ?? 'T00:00') : ''}`);
            }}
          />
        </span>
        {withTime && zone !== undefined && <span className="text-sm text-soft">{zone}</span>}
      </span>
      <Why problem={problem} />
    </>
  );
}
