/**
 * A form made of the economy's JSON Schema: the same shape that checks files and requests, which also says what each
 * field is called, what it is for and what it names. Each field is kept when it is left; what the service refuses is
 * told with its place.
 */
import { useEffect, useId, useState } from 'react';
import { useBegun } from './begun.js';
import { CELLS } from '../../core/catalog/cell.js';
import { cellNameOf, jsonNodeAt, jsonResolved } from '../../core/catalog/schemaCell.js';
import type { CellKind, JsonNode } from '../../core/catalog/index.js';
import { valueAt } from '../../core/document/pointers.js';
import { pointerOf, pointerSegments } from '../../core/issue/index.js';
import { idFor } from '../../core/schema/ids.js';
import { useDraft, useSchema } from '../api.js';
import { FormulaInput } from '../fields/FormulaInput.js';
import { Gives } from '../fields/Gives.js';
import { Limits } from '../fields/Limits.js';
import { Many } from '../fields/Many.js';
import { Picker, article } from '../fields/Picker.js';
import { Price, basketRows } from '../fields/Price.js';
import { Recurrence } from '../fields/Recurrence.js';
import { Rows } from '../fields/Rows.js';
import { TextField } from '../fields/TextField.js';
import { Weights } from '../fields/Weights.js';
import { When } from '../fields/When.js';
import { useMaker } from '../fields/making.js';
import { kindWord, nameables } from '../fields/nameable.js';
import type { NameKind } from '../fields/nameable.js';
import { WhyRefused } from './WhyRefused.js';
import { PlayingTimeLine } from './playtime.js';
import { useEdits } from './edits.js';
import { eventFields } from './eventFields.js';
import { isWithin, reasonsAt, withRefused } from './refused.js';
import { fieldOperations } from './step.js';
import { Button, Choice, Field, Input, Legend } from './ui.js';

/** How the schema says that a text may hold anything but blanks alone. */
const NOT_BLANK = '\\S';

/** How to write what is typed as text, by notation. */
const SUCH_AS: Record<string, string> = {
  duration: 'such as 20 min, or 1 day',
  every: 'such as day, or 6 h',
  range: 'such as 2, or 2-3',
  timeOfDay: 'such as 18:00',
};

/** What has a place of its own: shelves and offers in Shops, entries in Loot, silenced findings where findings are told. */
const ELSEWHERE = new Set(['shelves', 'offers', 'entries', 'silenced']);

/** The fields of a group that are written here. A list of offers is picked from, and is no place of theirs. */
const fieldsHere = ({ properties = {} }: JsonNode): [string, JsonNode][] =>
  Object.entries(properties).filter(([name, { type }]) => type === 'array' || !ELSEWHERE.has(name));

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
  const document = useDraft().data?.document;
  const { apply, refused, forget } = useEdits();
  const whole = useNextFrame();
  const schema = root && jsonNodeAt(root, pointerSegments(pointer));
  if (!schema?.properties || !document) return null;
  const here = refused.filter(({ operation }) => isWithin(operation.path, pointer));
  const shown =
    here.length === 0 ? value : (valueAt(withRefused(document, here), pointerSegments(pointer)) as typeof value);
  const all = fieldsHere(schema).filter(([name]) => !without.includes(name));
  const fields = whole ? all : all.slice(0, FIRST_FIELDS);
  return (
    <div className="flex flex-col gap-2">
      {fields.map(([name, field]) => (
        <AnyField
          key={`${pointer}/${name}`}
          path={[...pointerSegments(pointer), name]}
          node={field}
          value={shown[name]}
          needed={schema.required?.includes(name) ?? false}
          focused={fresh && name === 'name'}
          onKeep={(next) => {
            forget(`${pointer}${pointerOf([name])}`);
            const operations = fieldOperations(pointer, name, value[name], next);
            if (operations.length > 0) apply({ operations });
          }}
        />
      ))}
    </div>
  );
}

/** What is seen of a form before it is scrolled, at least; the rest is drawn behind it, a frame later. */
const FIRST_FIELDS = 4;

/** True from the frame after the first. */
function useNextFrame(): boolean {
  const [isNext, setNext] = useState(false);
  useEffect(() => {
    let timer: number | undefined;
    const frame = requestAnimationFrame(() => {
      timer = window.setTimeout(() => setNext(true));
    });
    return () => {
      cancelAnimationFrame(frame);
      window.clearTimeout(timer);
    };
  }, []);
  return isNext;
}

interface FieldProps {
  /** Where it stands in the document. */
  path: readonly string[];
  node: JsonNode;
  value: unknown;
  /** It must not be taken away. */
  needed: boolean;
  /** It has the focus when it appears. */
  focused?: boolean;
  /** Gets the new value, undefined to take it away. */
  onKeep: (value: unknown) => void;
}

/** A field, and why what stands in it could not be saved. */
function AnyField(props: FieldProps) {
  const root = useSchema().data!;
  const { refused } = useEdits();
  const node = { ...jsonResolved(root, props.node), ...props.node };
  const inner = typeof node.additionalProperties === 'object' ? node.additionalProperties : {};
  // What has fields of its own, or entries that have, lets them tell what is wrong with them.
  const isOne = (node.properties ?? jsonResolved(root, inner).properties) === undefined;
  const reasons = reasonsAt(refused, pointerOf(props.path), isOne);
  return (
    <>
      <Written {...props} node={node} />
      {reasons.length > 0 && <WhyRefused pointer={pointerOf(props.path)} reasons={reasons} />}
    </>
  );
}

/** The way in which a value of this shape is written. */
function Written(props: FieldProps) {
  const root = useSchema().data!;
  const { node, value, onKeep } = props;
  const label = node.title ?? props.path.at(-1)!;
  const help = node.description;
  const cell = node['x-cell'];
  const document = useDraft().data!.document;
  const maker = useMaker();
  if (cell === 'price') return <Price {...{ label, help, document, value, onKeep }} />;
  if (cell === 'gives') return <Gives {...{ label, help, document, value, onKeep }} onMake={maker('asset')!} />;
  if (node['x-form'] === 'recurrence')
    return <Recurrence {...{ label, help, onKeep }} value={value as string | undefined} />;
  if (node['x-form'] === 'weights') return <Mix {...props} />;
  if (cell === 'limits') return <Limits {...{ label, help, value, onKeep }} />;
  if (node.properties) return <Group {...props} node={node} />;
  const inner = typeof node.additionalProperties === 'object' ? node.additionalProperties : undefined;
  if (inner && jsonResolved(root, inner).properties) return <Entries {...props} node={node} />;
  if (inner && jsonResolved(root, inner).additionalProperties) return <Nested {...props} node={node} />;
  if (inner) return <Mapped {...props} node={node} />;
  if (node.type === 'array') {
    const kind = (node.items?.['x-names'] ?? 'tag') as NameKind;
    return (
      <Many
        {...{ label, help, onKeep }}
        options={nameables(document, kind, props.path)}
        word={kindWord(kind)}
        value={value as readonly string[] | undefined}
        onMake={maker(kind)}
      />
    );
  }
  if (node.enum ?? node.type === 'boolean') return <OneOf {...props} node={node} />;
  return <Single {...props} node={node} />;
}

/** Texts, numbers, names, formulas, dates: what one line holds. */
function Single({ path, node, value, needed, focused = false, onKeep }: FieldProps) {
  const helpId = useId();
  const document = useDraft().data!.document;
  const maker = useMaker();
  const label = node.title ?? path.at(-1)!;
  const form = node['x-form'];
  const kind = node['x-names'] ?? (form === 'language' || form === 'zone' ? form : undefined);
  const cellName = cellNameOf(node);
  const describedBy = node.description === undefined ? undefined : helpId;
  if (!kind && form !== 'condition' && cellName !== 'amount' && !isDate(form))
    return (
      <TextField
        label={label}
        help={node.description}
        such={SUCH_AS[form ?? cellName]}
        cell={CELLS[cellName]}
        value={value}
        onKeep={onKeep}
        focused={focused}
        long={(node.maxLength ?? 0) > 500 && (node.pattern ?? NOT_BLANK) === NOT_BLANK}
      />
    );
  return (
    <Field label={label} help={node.description} helpId={helpId}>
      {(id) => {
        if (kind)
          return (
            <Picker
              id={id}
              options={nameables(document, kind as NameKind, path)}
              word={kindWord(kind as NameKind)}
              value={value as string | undefined}
              needed={needed}
              describedBy={describedBy}
              onPick={onKeep}
              onMake={madeOf(maker(kind as NameKind), onKeep)}
            />
          );
        if (isDate(form))
          return (
            <When
              id={id}
              value={value as string | undefined}
              withTime={form !== 'date'}
              zone={document.timeZone}
              describedBy={describedBy}
              onKeep={onKeep}
            />
          );
        const cell = form === 'condition' ? CONDITION : CELLS[cellName];
        return (
          <FormulaInput
            id={id}
            document={document}
            text={cell.write(value)}
            gives={form === 'condition' ? 'truth' : 'number'}
            event={eventOf(document, path)}
            describedBy={describedBy}
            placeholder={form === 'condition' ? 'such as level >= 3' : 'a number, or = and a formula'}
            onKeep={(text) => {
              const read = cell.read(text);
              if (!read.ok) return read.problem;
              onKeep(read.value);
              return undefined;
            }}
          />
        );
      }}
    </Field>
  );
}

const isDate = (form: string | undefined): boolean => form === 'instant' || form === 'localTime' || form === 'date';

const madeOf = (
  make: ((name: string, keep: (id: string) => void) => void) | undefined,
  onKeep: (id: string) => void,
): ((name: string) => void) | undefined => make && ((name) => make(name, onKeep));

/** A condition is a formula: the = that it begins with need not be typed. */
const CONDITION: CellKind = {
  write: (value) => CELLS.text.write(value),
  read: (text) => CELLS.text.read(/^\s*(?:=|$)/.test(text) ? text : `=${text.trim()}`),
};

/** Where an amount may be a formula: what offers, earning rules and uses ask and give. */
const mayBeFormula = (path: readonly string[]): boolean =>
  path[0] === 'earning' || path[4] === 'offers' || path.includes('onUse');

/** What players pay, or get for play: the worth of an item, what rules, goals and levels give, what a sale asks. */
const isPriced = (path: readonly string[]): boolean =>
  ['worth', 'gives', 'price'].includes(path.at(-1)!) &&
  ['items', 'earning', 'goals', 'tracks', 'sales'].includes(path[0]!);

/** The event whose fields a formula of an earning rule can name. */
const eventOf = (
  document: { earning?: Record<string, { on?: string }> },
  path: readonly string[],
): string | undefined => (path[0] === 'earning' ? document.earning?.[path[1]!]?.on : undefined);

function OneOf({ path, node, value, needed, onKeep }: FieldProps) {
  const none = '(not set)';
  const isTruth = node.type === 'boolean';
  const options = node.enum ?? ['yes', 'no'];
  return (
    <Field label={node.title ?? path.at(-1)!} help={node.description}>
      {(id) => (
        <Choice
          id={id}
          value={value === undefined ? none : isTruth ? (value ? 'yes' : 'no') : (value as string)}
          options={[
            ...(needed ? [] : [{ value: none, label: none }]),
            ...options.map((one) => ({ value: one, label: node['x-options']?.[one] ?? one })),
          ]}
          onChange={(next) => onKeep(next === none ? undefined : isTruth ? next === 'yes' : next)}
        />
      )}
    </Field>
  );
}

/** Values by what they are of: things that exist, or keys of one's own. */
function Mapped({ path, node, value, needed, onKeep }: FieldProps) {
  const document = useDraft().data!.document;
  const maker = useMaker();
  const label = node.title ?? path.at(-1)!;
  const values = value as Record<string, unknown> | undefined;
  const whole = node['x-cell'];
  const inner = node.additionalProperties as JsonNode;
  const cell = CELLS[cellNameOf(inner)];
  const choices = inner.enum?.map((one) => ({ value: one, label: inner['x-options']?.[one] ?? one }));
  const rows =
    whole === 'basket' || whole === 'loot'
      ? basketRows(whole)
      : {
          write: (_: string, one: unknown) => cell.write(one),
          read: (_: string, text: string) => cell.read(text),
          // Of parts, one that leaves something.
          first: inner.enum?.[0] ?? (whole === 'parts' ? 0.1 : 1),
          choices,
        };
  const kind = node['x-names'] as NameKind | undefined;
  if (kind)
    return (
      <Rows
        label={label}
        help={node.description}
        options={nameables(document, kind, [...path, ''])}
        word={kindWord(kind)}
        value={values}
        {...rows}
        {...(whole === 'basket' && mayBeFormula(path) ? { formula: { document, event: eventOf(document, path) } } : {})}
        {...(isPriced(path) ? { tells: (basket: unknown) => <PlayingTimeLine written={basket} /> } : {})}
        needed={needed}
        onKeep={onKeep}
        onMake={maker(kind)}
      />
    );
  return (
    <Rows
      label={label}
      help={node.description}
      options={Object.keys(values ?? {}).map((id) => ({ id, label: id, hint: '' }))}
      word="name"
      value={values}
      {...rows}
      needed={needed}
      onKeep={onKeep}
      onMake={(name, keep) => keep(idFor(name, 'key', (id) => id in (values ?? {})))}
    />
  );
}

/** How often things are beside each other: a slider for each. */
function Mix({ path, node, value, onKeep }: FieldProps) {
  const document = useDraft().data!.document;
  const maker = useMaker();
  const kind = node['x-names'] as NameKind;
  return (
    <Weights
      label={node.title ?? path.at(-1)!}
      help={node.description}
      options={nameables(document, kind, [...path, ''])}
      word={kindWord(kind)}
      value={(value ?? {}) as Record<string, number>}
      onKeep={onKeep}
      onMake={maker(kind)}
    />
  );
}

/** By what exists, values by what they are of: the events of an activity with their fields. */
function Nested({ path, node, value = {}, needed, onKeep }: FieldProps) {
  const document = useDraft().data!.document;
  const maker = useMaker();
  const label = node.title ?? path.at(-1)!;
  const kind = node['x-names'] as NameKind;
  const options = nameables(document, kind, path);
  const outer = value as Record<string, unknown>;
  const put = (id: string, inner: unknown): void => {
    const { [id]: _old, ...others } = outer;
    const after = inner === undefined ? others : { ...outer, [id]: inner };
    onKeep(Object.keys(after).length === 0 && !needed ? undefined : after);
  };
  return (
    <fieldset className="flex min-w-0 flex-col gap-2 rounded-tag border border-line px-3 pt-1 pb-2">
      <Legend label={label} help={node.description} />
      {Object.entries(outer).map(([id, inner]) => (
        <div key={id} className="flex flex-col gap-1">
          <Mapped
            path={[...path, id]}
            node={{
              ...(node.additionalProperties as JsonNode),
              title: options.find((one) => one.id === id)?.label ?? id,
            }}
            value={inner}
            needed
            onKeep={(next) => put(id, next)}
          />
          <Button className="self-start py-0 text-sm" onClick={() => put(id, undefined)}>
            Without {options.find((one) => one.id === id)?.label ?? id}
          </Button>
        </div>
      ))}
      <Picker
        label={`${label}: add ${article(kindWord(kind))}`}
        options={options.filter(({ id }) => !(id in outer))}
        value={undefined}
        word={kindWord(kind)}
        adding
        onPick={(id) => id !== undefined && put(id, kind === 'event' ? eventFields(document, id) : {})}
        onMake={madeOf(maker(kind), (id) => put(id, {}))}
      />
    </fieldset>
  );
}

/** A group of fields that may be absent as a whole. A new one is filled in here, and kept when it is complete. */
function Group({ path, node, value, needed, onKeep }: FieldProps) {
  const [fresh, setFresh] = useBegun<Record<string, unknown>>(path);
  const present = value as Record<string, unknown> | undefined;
  const label = node.title ?? path.at(-1)!;
  const missing = (node.required ?? []).filter((field) => fresh?.[field] === undefined);
  const fields = (of: Record<string, unknown>, keep: (after: Record<string, unknown>) => void) =>
    fieldsHere(node).map(([field, inner]) => (
      <AnyField
        key={field}
        path={[...path, field]}
        node={inner}
        value={of[field]}
        needed={node.required?.includes(field) ?? false}
        onKeep={(next) => {
          const { [field]: _old, ...others } = of;
          keep(next === undefined ? others : { ...of, [field]: next });
        }}
      />
    ));
  return (
    <fieldset className="min-w-0 rounded-tag border border-line px-3 pt-1 pb-2">
      <Legend label={label} help={node.description} />
      {present ? (
        <div className="flex flex-col gap-2">
          {fields(present, onKeep)}
          {!needed && (
            <Button
              className="self-start py-0 text-sm"
              onClick={() => onKeep(undefined)}
              aria-label={`Remove ${label}`}
            >
              Remove
            </Button>
          )}
        </div>
      ) : fresh ? (
        <div className="flex flex-col gap-2">
          {fields(fresh, setFresh)}
          <span className="flex gap-2">
            <Button
              className="py-0 text-sm"
              look="primary"
              disabled={missing.length > 0}
              onClick={() => {
                setFresh(null);
                onKeep(fresh);
              }}
            >
              Keep {label}
            </Button>
            <Button className="py-0 text-sm" onClick={() => setFresh(null)}>
              Drop
            </Button>
          </span>
        </div>
      ) : (
        <span className="flex items-center gap-2">
          <Button className="py-0 text-sm" onClick={() => setFresh({})} aria-label={`Add ${label}`}>
            Add
          </Button>
          <span className="text-sm text-soft">{node.description}</span>
        </span>
      )}
    </fieldset>
  );
}

/** Entries by id, such as the windows of a sale: each is a group, and a new one is named first. */
function Entries({ path, node, value, onKeep }: FieldProps) {
  const [begun, setFresh] = useBegun<string>([...path, '']);
  const fresh = begun ?? '';
  const entries = (value ?? {}) as Record<string, unknown>;
  const label = node.title ?? path.at(-1)!;
  const id = idFor(fresh, label, (one) => one in entries);
  const inner = node.additionalProperties as JsonNode;
  const put = (key: string, entry: unknown) => {
    const { [key]: _old, ...rest } = entries;
    const after = entry === undefined ? rest : { ...entries, [key]: entry };
    onKeep(Object.keys(after).length === 0 ? undefined : after);
  };
  return (
    <fieldset className="flex min-w-0 flex-col gap-2 rounded-tag border border-line px-3 pt-1 pb-2">
      <Legend label={label} help={node.description} />
      {node.description !== undefined && Object.keys(entries).length === 0 && (
        <p className="text-sm text-soft">{node.description}</p>
      )}
      {Object.entries(entries).map(([key, entry]) => (
        <Group
          key={key}
          path={[...path, key]}
          node={{ ...inner, title: key }}
          value={entry}
          needed={false}
          onKeep={(next) => put(key, next)}
        />
      ))}
      <Input
        aria-label={`${label}: name of a new one`}
        placeholder="name of a new one"
        value={fresh}
        onChange={(event) => setFresh(event.target.value || null)}
      />
      {id !== '' && entries[id] === undefined && (
        <Group
          key={`new ${id}`}
          path={[...path, id]}
          node={{ ...inner, title: id }}
          value={undefined}
          needed={false}
          onKeep={(next) => {
            put(id, next);
            setFresh(null);
          }}
        />
      )}
    </fieldset>
  );
}
