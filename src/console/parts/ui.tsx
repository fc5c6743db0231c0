/** The small pieces that every room is made of. */
import { Dialog, Select, Tooltip } from 'radix-ui';
import { useId, useState } from 'react';
import type { ButtonHTMLAttributes, ComponentProps, ReactNode } from 'react';
import { priceText } from '../../core/texts/amounts.js';
import type { AssetLabels } from '../../core/texts/index.js';
import { errorLines } from '../api.js';
import { useFocusBack } from './focusBack.js';

export function Sheet({
  title,
  actions,
  children,
  className = '',
}: {
  title?: string;
  actions?: ReactNode;
  children: ReactNode;
  className?: string;
}) {
  return (
    <section className={`rounded-sheet border border-line bg-sheet shadow-sheet ${className}`}>
      {(title ?? actions) !== undefined && (
        <header className="flex items-center justify-between gap-3 border-b border-line px-4 py-2">
          {title !== undefined && <h2 className="text-lg">{title}</h2>}
          <div className="flex items-center gap-2">{actions}</div>
        </header>
      )}
      <div className="p-4">{children}</div>
    </section>
  );
}

const BUTTONS = {
  primary: 'bg-copper text-on-copper hover:bg-copper-deep disabled:opacity-50',
  plain: 'border border-line bg-sheet text-ink hover:bg-sunk disabled:opacity-50',
  /** What it switches is on. */
  pressed: 'border border-ink bg-ink text-paper',
};

export function Button({
  look = 'plain',
  className = '',
  busy = false,
  onClick,
  ...rest
}: ButtonHTMLAttributes<HTMLButtonElement> & {
  look?: keyof typeof BUTTONS;
  /** What it does goes on: it does nothing meanwhile, and unlike a disabled one it keeps the focus. */
  busy?: boolean;
}) {
  return (
    <button
      type="button"
      {...rest}
      {...(busy ? { 'aria-disabled': true } : { onClick })}
      className={`rounded-tag px-3 py-1 font-semibold ${BUTTONS[look]} ${busy ? 'opacity-50' : ''} ${className}`}
    />
  );
}

export function Field({
  label,
  help,
  helpId,
  children,
}: {
  label: string;
  /** A line on what it is for. */
  help?: string | undefined;
  /** By which a field says that it is described by that line. */
  helpId?: string;
  children: (id: string) => ReactNode;
}) {
  const id = useId();
  return (
    <div className="flex min-w-0 flex-col gap-0.5">
      <span className="flex items-baseline gap-2 text-sm text-soft">
        <label htmlFor={id} className="shrink-0 font-semibold">
          {label}
        </label>
        {help !== undefined && (
          <span id={helpId} title={help} className="min-w-0 truncate">
            {help}
          </span>
        )}
      </span>
      {children(id)}
    </div>
  );
}

/** Why what is typed cannot be kept, where it stands. */
export const Why = ({ problem }: { problem: string | undefined }) =>
  problem === undefined ? null : (
    <span role="alert" className="text-sm text-brick">
      {problem}
    </span>
  );

/** What a group of fields is called. */
export const Legend = ({ label, help }: { label: string; help?: string | undefined }) => (
  <legend className="max-w-full px-1 text-sm text-soft" title={help}>
    <span className="font-semibold">{label}</span>
  </legend>
);

export function Input({ className = '', ...rest }: ComponentProps<'input'>) {
  return (
    <input
      {...rest}
      className={`rounded-tag border border-line bg-paper px-2 py-1 text-ink placeholder:text-soft ${className}`}
    />
  );
}

export interface Option {
  value: string;
  label: string;
}

/** A drop-down list. Options never have an empty value. */
export function Choice({
  label,
  value,
  options,
  onChange,
  id,
}: {
  label?: string;
  id?: string;
  value: string;
  options: readonly Option[];
  onChange: (value: string) => void;
}) {
  return (
    <Select.Root value={value} onValueChange={onChange}>
      <Select.Trigger
        id={id}
        aria-label={id === undefined ? label : undefined}
        className="inline-flex min-w-36 items-center justify-between gap-2 rounded-tag border border-line bg-paper px-2 py-1 text-left"
      >
        <Select.Value placeholder="Choose ..." />
        <Select.Icon aria-hidden>▾</Select.Icon>
      </Select.Trigger>
      <Select.Portal>
        <Select.Content
          position="popper"
          sideOffset={3}
          className="z-50 max-h-80 overflow-auto rounded-sheet border border-line bg-sheet p-1 shadow-sheet"
        >
          <Select.Viewport>
            {options.map((option) => (
              <Select.Item
                key={option.value}
                value={option.value}
                className="cursor-pointer rounded-tag px-3 py-1 outline-none data-[highlighted]:bg-tint-copper data-[state=checked]:font-semibold"
              >
                <Select.ItemText>{option.label}</Select.ItemText>
              </Select.Item>
            ))}
          </Select.Viewport>
        </Select.Content>
      </Select.Portal>
    </Select.Root>
  );
}

export function Hint({ text, children }: { text: ReactNode; children: ReactNode }) {
  return (
    <Tooltip.Root delayDuration={200}>
      <Tooltip.Trigger asChild>{children}</Tooltip.Trigger>
      <Tooltip.Portal>
        <Tooltip.Content
          sideOffset={4}
          className="z-50 max-w-sm rounded-sheet border border-line bg-ink px-3 py-2 text-sm text-paper"
        >
          {text}
        </Tooltip.Content>
      </Tooltip.Portal>
    </Tooltip.Root>
  );
}

const TONES = {
  good: 'bg-tint-verdigris text-verdigris',
  bad: 'bg-tint-brick text-brick',
  care: 'bg-tint-brass text-brass',
  quiet: 'bg-sunk text-soft',
};
export type Tone = keyof typeof TONES;

export function Badge({ tone = 'quiet', children }: { tone?: Tone; children: ReactNode }) {
  return (
    <span className={`inline-block rounded-tag px-2 text-sm font-semibold whitespace-nowrap ${TONES[tone]}`}>
      {children}
    </span>
  );
}

/** A price as players see it: always made from the amounts, never typed. */
export function PriceTag({
  total,
  money,
  labels,
}: {
  total: Record<string, number>;
  money?: Readonly<Record<string, number>> | undefined;
  labels: AssetLabels;
}) {
  return <span className="price-tag">{priceText(labels, { total, money })}</span>;
}

/** A window over the room: what it is about, and what to do. Escape closes it. */
export function Window({
  title,
  open,
  onClose,
  children,
  wide = false,
}: {
  title: string;
  open: boolean;
  onClose: () => void;
  children: ReactNode;
  wide?: boolean;
}) {
  const focusBack = useFocusBack();
  return (
    <Dialog.Root open={open} onOpenChange={(next) => !next && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-ink/40" />
        <Dialog.Content
          {...focusBack}
          aria-describedby={undefined}
          className={`fixed top-16 left-1/2 z-50 max-h-[82vh] -translate-x-1/2 overflow-auto rounded-sheet border border-line bg-sheet p-4 shadow-sheet ${wide ? 'w-[900px]' : 'w-[560px]'}`}
        >
          <Dialog.Title className="mb-3 text-lg">{title}</Dialog.Title>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

export function Problem({ error, children }: { error: unknown; children?: ReactNode }) {
  if (error === null || error === undefined) return null;
  const [first, ...rest] = errorLines(error);
  return (
    <div role="alert" className="rounded-sheet border border-brick bg-tint-brick px-4 py-2 text-ink">
      <p className="font-semibold">{first}</p>
      {rest.length > 0 && (
        <ul className="list-disc pl-5">
          {rest.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      )}
      {children}
    </div>
  );
}

export function Empty({ children }: { children: ReactNode }) {
  return <p className="rounded-sheet border border-dashed border-line px-4 py-6 text-center text-soft">{children}</p>;
}

/** Some of many words in a row, and the rest for whoever asks. */
export function Few({ words, most, between }: { words: readonly string[]; most: number; between: string }) {
  const [whole, setWhole] = useState(false);
  // A single one takes no more room than the words that it is left out.
  const shown = whole || words.length <= most + 1 ? words : words.slice(0, most);
  return (
    <>
      {shown.join(between)}
      {shown.length < words.length && (
        <button type="button" className="ml-2 underline" onClick={() => setWhole(true)}>
          and {words.length - shown.length} more
        </button>
      )}
    </>
  );
}

export const Waiting = () => (
  <p className="px-2 py-4 text-soft" role="status">
    One moment ...
  </p>
);

const instantFormats = new Map<string | undefined, Intl.DateTimeFormat>();

/** An instant in the economy's zone, with the zone said. */
export function instantWords(ms: number, zone: string | undefined): string {
  let format = instantFormats.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat('en-GB', {
      dateStyle: 'medium',
      timeStyle: 'short',
      ...(zone ? { timeZone: zone } : {}),
    });
    instantFormats.set(zone, format);
  }
  return format.format(ms) + (zone ? ` (${zone})` : '');
}

export interface Column<T> {
  head: string;
  cell: (row: T) => ReactNode;
  right?: boolean;
  /** On one line, however much room the others want. */
  whole?: boolean;
}

export function DataTable<T>({
  columns,
  rows,
  rowKey,
  label,
}: {
  columns: readonly Column<T>[];
  rows: readonly T[];
  rowKey: (row: T, index: number) => string;
  label: string;
}) {
  return (
    <div className="overflow-x-auto">
      <table className="w-full border-collapse" aria-label={label}>
        <thead>
          <tr className="border-b border-line text-left text-sm text-soft">
            {columns.map(({ head, right }) => (
              <th key={head} scope="col" className={`px-2 py-1 ${right ? 'text-right' : ''}`}>
                {head}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, index) => (
            <tr key={rowKey(row, index)} className="border-b border-line/60 last:border-0">
              {columns.map(({ head, cell, right, whole }) => (
                <td
                  key={head}
                  className={`px-2 py-1 align-top ${right ? 'text-right' : ''} ${whole ? 'whitespace-nowrap' : ''}`}
                >
                  {cell(row)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
