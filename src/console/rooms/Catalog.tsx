/** Catalog: items, offers and currencies in a grid that saves each change to the draft. */
import type { Operation } from 'fast-json-patch';
import { Tabs } from 'radix-ui';
import { useRef, useState } from 'react';
import { useAudit, useDraft, useSave } from '../api.js';
import { Grid } from '../grid/Grid.js';
import type { CellEdit } from '../grid/Grid.js';
import { GRIDS, fieldOperation } from '../grid/columns.js';
import { useParam } from '../parts/search.js';
import { Badge, Button, Empty, Input, Problem, Waiting } from '../parts/ui.js';

type View = keyof typeof GRIDS;
/** A change and the way back. */
interface Step {
  operations: Operation[];
  undo: Operation[];
  why: string;
}

export default function Catalog() {
  const [view, setView] = useParam('view', 'items');
  const [filter, setFilter] = useParam('find', '');
  const { steps, error, saving, edit, undo, document, findings, add } = useCatalog(view as View);
  if (!document) return <Waiting />;
  const grid = GRIDS[view as View] ?? GRIDS.items;
  const rows = grid.rows(document);
  return (
    <Tabs.Root value={view} onValueChange={setView} className="flex flex-col gap-3">
      <div className="flex flex-wrap items-center gap-3">
        <h1 className="text-2xl">Catalog</h1>
        <Tabs.List aria-label="What to edit" className="flex gap-1">
          {Object.entries(GRIDS).map(([key, { name }]) => (
            <Tabs.Trigger
              key={key}
              value={key}
              className="rounded-tag border border-line bg-sheet px-3 py-0.5 font-semibold data-[state=active]:bg-ink data-[state=active]:text-paper"
            >
              {name}
            </Tabs.Trigger>
          ))}
        </Tabs.List>
        <Input
          aria-label="Find"
          placeholder="Find ..."
          value={filter}
          onChange={(event) => setFilter(event.target.value)}
        />
        {view === 'items' && <NewItem taken={(id) => document.items?.[id] !== undefined} onAdd={add} />}
        <span className="ml-auto flex items-center gap-2">
          <span role="status" className="text-sm text-soft">
            {saving ? 'Saving ...' : `${rows.length} ${rows.length === 1 ? 'row' : 'rows'}, all saved to the draft`}
          </span>
          <Button onClick={undo} disabled={steps === 0}>
            Undo
          </Button>
        </span>
      </div>
      <Problem error={error} />
      <Tabs.Content value={view}>
        {rows.length === 0 ? (
          <Empty>Nothing here yet. Add an item above, or push an economy folder: dimestall push FOLDER.</Empty>
        ) : (
          <Grid
            key={view}
            label={grid.name}
            columns={grid.columns}
            rows={rows}
            filter={filter}
            findings={findings}
            onEdit={edit}
            onUndo={undo}
          />
        )}
        <p className="mt-2 text-sm text-soft">
          Arrows move, typing edits, Enter or Tab keeps, Escape drops, Ctrl+Z undoes. Prices read{' '}
          <code>900 shells; 2 pearls</code>, alternatives <code>12 pearls | 2600 shells</code>, formulas{' '}
          <code>=60 * 1.15 ^ owned(wind_chime) shells</code>. <Badge tone="bad">!</Badge> marks a finding of the audit.
        </p>
      </Tabs.Content>
    </Tabs.Root>
  );
}

/** The draft with edits that are saved one after the other, each from the revision that the one before gave. */
function useCatalog(view: View) {
  const draft = useDraft();
  const audit = useAudit();
  const save = useSave();
  const done = useRef<Step[]>([]);
  const [steps, setSteps] = useState(0);
  const apply = (step: Step, keep: boolean) => {
    save.mutate(
      { operations: step.operations, why: step.why },
      {
        onSuccess: () => {
          if (keep) done.current.push(step);
          setSteps(done.current.length);
        },
      },
    );
  };
  const edit = ({ row, column, text }: CellEdit): string | undefined => {
    const parsed = column.parse!(text);
    if (!parsed.ok) return parsed.problem;
    if (parsed.value === undefined && column.needed) return `${column.head} cannot be empty`;
    const operation = fieldOperation(row, column.field, parsed.value);
    if (!operation) return undefined;
    const path = operation.path;
    const before = row.value[column.field];
    const back: Operation =
      before === undefined
        ? { op: 'remove', path }
        : { op: operation.op === 'remove' ? 'add' : 'replace', path, value: before };
    apply({ operations: [operation], undo: [back], why: `${GRIDS[view].what} ${row.id}: ${column.head}` }, true);
    return undefined;
  };
  const add = (id: string, name: string) => {
    const first: Operation[] =
      draft.data?.document.items === undefined ? [{ op: 'add', path: '/items', value: {} }] : [];
    apply(
      {
        operations: [...first, { op: 'add', path: `/items/${id}`, value: { name, kind: 'durable' } }],
        undo: [{ op: 'remove', path: `/items/${id}` }],
        why: `item ${id}: added`,
      },
      true,
    );
  };
  const undo = () => {
    const last = done.current.pop();
    if (last) apply({ operations: last.undo, undo: [], why: `undo: ${last.why}` }, false);
  };
  return {
    document: draft.data?.document,
    findings: audit.data?.findings ?? [],
    steps,
    saving: save.isPending,
    error: save.error,
    edit,
    undo,
    add,
  };
}

function NewItem({ taken, onAdd }: { taken: (id: string) => boolean; onAdd: (id: string, name: string) => void }) {
  const [name, setName] = useState('');
  const id = name
    .trim()
    .toLowerCase()
    .normalize('NFKD')
    .replace(/[^a-z0-9]+/g, '_')
    .replace(/^[^a-z]+|_+$/g, '')
    .slice(0, 64);
  const fits = id !== '' && !taken(id);
  return (
    <form
      className="flex gap-1"
      onSubmit={(event) => {
        event.preventDefault();
        if (fits) {
          onAdd(id, name.trim());
          setName('');
        }
      }}
    >
      <Input
        aria-label="New item's name"
        placeholder="New item's name"
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <Button type="submit" disabled={!fits}>
        {taken(id) ? `${id} exists` : 'Add item'}
      </Button>
    </form>
  );
}
