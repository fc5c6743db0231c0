/**
 * A form made of the economy's JSON Schema: the same shape that checks files and requests. Each field is kept when it
 * is left; what the service refuses is told with its place.
 */
import { useState } from 'react';
import { CELLS } from '../../core/catalog/cell.js';
import { cellNameOf, jsonNodeAt } from '../../core/catalog/schemaCell.js';
import type { CellKind, JsonNode } from '../../core/catalog/index.js';
import { pointerSegments } from '../../core/issue/index.js';
import { useSchema } from '../api.js';
import { useEdits } from './edits.js';
import { fieldOperation, idOf } from './step.js';
import { Button, Choice, Field, Input } from './ui.js';

/** How the schema says that a text may hold anything but blanks alone. */
const NOT_BLANK = '\\S';

const HINTS: Record<string, string> = {
  price: '900 shells; 2 pearls | 4.99 EUR [harbour_store=ref]',
  worth: '900 shells',
  limits: '3 per day; 1 per lifetime',
  picks: '2-3',
  when: '=level >= 3',
  every: 'PT6H',
  lasts: 'P7D',
  from: '2027-04-26T00:00',
  until: '2027-05-10T00:00',
  starts: '2027-03-06T10:00',
  repeats: 'FREQ=WEEKLY;BYDAY=SA',
  percent: '20',
  at: '2027-05-10T00:00',
};

/** Groups that have a place of their own. */
const ELSEWHERE = new Set(['shelves', 'offers', 'entries']);

interface Asked {
  pointer: string;
  value: Record<string, unknown>;
  /** Fields that are shown elsewhere. */
  without?: readonly string[];
  /** The thing was just made: its name is what comes next. */
  fresh?: boolean;
}

export function SchemaForm({ pointer, value, without = [], fresh = false }: Asked) {
  const root = useSchema().data;
  const schema = root && jsonNodeAt(root, pointerSegments(pointer));
  if (!schema?.properties) return null;
  const fields = Object.entries(schema.properties).filter(
    ([name, { type }]) => (type === 'array' || !ELSEWHERE.has(name)) && !without.includes(name),
  );
  return (
    <div className="flex flex-col gap-2">
      {fields.map(([name, field]) => (
        <FormField
          key={`${pointer}/${name}`}
          pointer={pointer}
          name={name}
          schema={field}
          holder={value}
          focused={fresh && name === 'name'}
        />
      ))}
    </div>
  );
}

interface FieldProps {
  pointer: string;
  name: string;
  schema: JsonNode;
  holder: Record<string, unknown>;
  /** It has the focus when it appears. */
  focused?: boolean;
}

function FormField({ pointer, name, schema, holder, focused = false }: FieldProps) {
  const { apply } = useEdits();
  const value = holder[name];
  const keep = (next: unknown) => {
    const change = fieldOperation(pointer, name, value, next);
    if (change) apply({ operations: [change] });
  };
  if (schema.properties) return <Group pointer={pointer} name={name} schema={schema} value={value} onKeep={keep} />;
  if (typeof schema.additionalProperties === 'object' && schema.additionalProperties.properties)
    return (
      <Entries
        pointer={pointer}
        name={name}
        schema={schema.additionalProperties}
        value={(value ?? {}) as Record<string, Record<string, unknown>>}
        onKeep={keep}
      />
    );
  if (schema.enum) return <OneOf name={name} options={schema.enum} value={value as string | undefined} onKeep={keep} />;
  if (schema.type === 'boolean')
    return (
      <OneOf
        name={name}
        options={['yes', 'no']}
        value={value === undefined ? undefined : value ? 'yes' : 'no'}
        onKeep={(next) => keep(next === undefined ? undefined : next === 'yes')}
      />
    );
  return (
    <TextField
      name={name}
      cell={CELLS[cellNameOf(schema)]}
      value={value}
      onKeep={keep}
      focused={focused}
      long={(schema.maxLength ?? 0) > 500 && (schema.pattern ?? NOT_BLANK) === NOT_BLANK}
    />
  );
}

function OneOf({
  name,
  options,
  value,
  onKeep,
}: {
  name: string;
  options: readonly string[];
  value: string | undefined;
  onKeep: (value: string | undefined) => void;
}) {
  const none = '(not set)';
  return (
    <Field label={name}>
      {(id) => (
        <Choice
          id={id}
          value={value ?? none}
          options={[none, ...options].map((one) => ({ value: one, label: one }))}
          onChange={(next) => onKeep(next === none ? undefined : next)}
        />
      )}
    </Field>
  );
}

/** A field that loses the focus because what it belongs to is shown no more keeps nothing. */
export const ifShown =
  (keep: () => void) =>
  ({ currentTarget }: { currentTarget: Element }): void => {
    if (currentTarget.isConnected) keep();
  };

/** For the ref of a field: it has the focus when it appears, and what stands in it gives way to what is typed. */
export function focusOnce(field: HTMLInputElement | null): void {
  field?.focus();
  field?.select();
}

function TextField({
  name,
  cell,
  value,
  onKeep,
  long,
  focused = false,
}: {
  name: string;
  cell: CellKind;
  value: unknown;
  onKeep: (value: unknown) => void;
  long: boolean;
  focused?: boolean;
}) {
  const written = cell.write(value);
  const [text, setText] = useState<string | null>(null);
  const [problem, setProblem] = useState<string | undefined>();
  const keep = () => {
    if (text === null) return;
    const read = text === written ? undefined : cell.read(text);
    setProblem(read && !read.ok ? read.problem : undefined);
    if (!read || read.ok) setText(null);
    if (read?.ok) onKeep(read.value);
  };
  return (
    <Field label={name}>
      {(id) => (
        <>
          {long ? (
            <textarea
              id={id}
              rows={2}
              value={text ?? written}
              onChange={(event) => setText(event.target.value)}
              onBlur={ifShown(keep)}
              className="rounded-tag border border-line bg-paper px-2 py-1"
            />
          ) : (
            <Input
              id={id}
              value={text ?? written}
              placeholder={HINTS[name] ? `such as ${HINTS[name]}` : ''}
              aria-invalid={problem !== undefined}
              onChange={(event) => setText(event.target.value)}
              onBlur={ifShown(keep)}
              ref={focused ? focusOnce : undefined}
              onKeyDown={(event) => {
                if (event.key === 'Enter') keep();
                if (event.key === 'Escape') setText(null);
              }}
            />
          )}
          {problem !== undefined && (
            <span role="alert" className="text-sm text-brick">
              {problem}
            </span>
          )}
        </>
      )}
    </Field>
  );
}

/** A part of the form with parts of its own; `onKeep` gets its new value, undefined to take it away. */
interface PartProps<V> {
  pointer: string;
  name: string;
  schema: JsonNode;
  value: V;
  onKeep: (value: unknown) => void;
}

/** A group of fields that may be absent as a whole. A new one is filled in here, and kept when it is complete. */
function Group({ pointer, name, schema, value, onKeep }: PartProps<unknown>) {
  const [fresh, setFresh] = useState<Record<string, unknown> | null>(null);
  const present = value as Record<string, unknown> | undefined;
  const missing = (schema.required ?? []).filter((field) => fresh?.[field] === undefined);
  return (
    <fieldset className="rounded-tag border border-line px-3 pt-1 pb-2">
      <legend className="px-1 text-sm font-semibold">{name}</legend>
      {present ? (
        <div className="flex flex-col gap-2">
          {Object.entries(schema.properties!).map(([field, inner]) => (
            <FormField key={field} pointer={`${pointer}/${name}`} name={field} schema={inner} holder={present} />
          ))}
          <Button className="self-start py-0 text-sm" onClick={() => onKeep(undefined)} aria-label={`Remove ${name}`}>
            Remove
          </Button>
        </div>
      ) : fresh ? (
        <div className="flex flex-col gap-2">
          {Object.entries(schema.properties!).map(([field, inner]) => (
            <FreshField
              key={field}
              pointer={`${pointer}/${name}`}
              name={field}
              schema={inner}
              value={fresh[field]}
              onChange={(next) => setFresh({ ...fresh, [field]: next })}
            />
          ))}
          <span className="flex gap-2">
            <Button
              className="py-0 text-sm"
              look="primary"
              disabled={missing.length > 0}
              onClick={() => {
                setFresh(null);
                onKeep(Object.fromEntries(Object.entries(fresh).filter(([, one]) => one !== undefined)));
              }}
            >
              Keep {name}
            </Button>
            <Button className="py-0 text-sm" onClick={() => setFresh(null)}>
              Drop
            </Button>
          </span>
        </div>
      ) : (
        <Button className="py-0 text-sm" onClick={() => setFresh({})} aria-label={`Add ${name}`}>
          Add
        </Button>
      )}
    </fieldset>
  );
}

/** Entries by id, such as the windows of a sale: each is a group, and a new one is named first. */
function Entries({ pointer, name, schema, value, onKeep }: PartProps<Record<string, Record<string, unknown>>>) {
  const [fresh, setFresh] = useState('');
  const id = idOf(fresh);
  const put = (key: string, entry: unknown) => {
    const { [key]: _old, ...rest } = value;
    const after = entry === undefined ? rest : { ...value, [key]: entry };
    onKeep(Object.keys(after).length === 0 ? undefined : after);
  };
  return (
    <fieldset className="flex flex-col gap-2 rounded-tag border border-line px-3 pt-1 pb-2">
      <legend className="px-1 text-sm font-semibold">{name}</legend>
      {Object.entries(value).map(([key, entry]) => (
        <Group
          key={key}
          pointer={`${pointer}/${name}`}
          name={key}
          schema={schema}
          value={entry}
          onKeep={(next) => put(key, next)}
        />
      ))}
      <Input
        aria-label={`New entry of ${name}`}
        placeholder="name of a new one"
        value={fresh}
        onChange={(event) => setFresh(event.target.value)}
      />
      {id !== '' && value[id] === undefined && (
        <Group
          key={`new ${id}`}
          pointer={`${pointer}/${name}`}
          name={id}
          schema={schema}
          value={undefined}
          onKeep={(next) => {
            put(id, next);
            setFresh('');
          }}
        />
      )}
    </fieldset>
  );
}

function FreshField({
  pointer,
  name,
  schema,
  value,
  onChange,
}: {
  pointer: string;
  name: string;
  schema: JsonNode;
  value: unknown;
  onChange: (value: unknown) => void;
}) {
  if (schema.properties) {
    const group = (value ?? {}) as Record<string, unknown>;
    return (
      <fieldset className="rounded-tag border border-line px-3 pb-2">
        <legend className="px-1 text-sm font-semibold">{name}</legend>
        {Object.entries(schema.properties).map(([field, inner]) => (
          <FreshField
            key={field}
            pointer={`${pointer}/${name}`}
            name={field}
            schema={inner}
            value={group[field]}
            onChange={(next) => {
              const { [field]: _old, ...rest } = group;
              const after = next === undefined ? rest : { ...rest, [field]: next };
              onChange(Object.keys(after).length === 0 ? undefined : after);
            }}
          />
        ))}
      </fieldset>
    );
  }
  if (schema.enum ?? schema.type === 'boolean')
    return (
      <OneOf
        name={name}
        options={schema.enum ?? ['yes', 'no']}
        value={typeof value === 'boolean' ? (value ? 'yes' : 'no') : (value as string | undefined)}
        onKeep={(next) => onChange(schema.enum || next === undefined ? next : next === 'yes')}
      />
    );
  return <TextField name={name} cell={CELLS[cellNameOf(schema)]} value={value} onKeep={onChange} long={false} />;
}
