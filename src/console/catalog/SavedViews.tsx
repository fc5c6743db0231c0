/** Views of the catalog by name: which sheet, filter, order and columns. The address holds them, so each can be shared. */
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import { Button, Choice, Input } from '../parts/ui.js';

const KEY = 'catalog-views';
const WITHOUT = ['open'];
type Views = Record<string, string>;

function read(): Views {
  try {
    return JSON.parse(localStorage.getItem(KEY) ?? '{}') as Views;
  } catch {
    return {};
  }
}

export function SavedViews() {
  const [params, setParams] = useSearchParams();
  const [views, setViews] = useState(read);
  const [naming, setNaming] = useState<string | null>(null);
  const now = new URLSearchParams(params);
  for (const name of WITHOUT) now.delete(name);
  const current = Object.entries(views).find(([, search]) => search === now.toString())?.[0];
  const keep = (next: Views) => {
    localStorage.setItem(KEY, JSON.stringify(next));
    setViews(next);
    setNaming(null);
  };
  if (naming !== null)
    return (
      <form
        className="flex gap-1"
        onSubmit={(event) => {
          event.preventDefault();
          if (naming.trim() !== '') keep({ ...views, [naming.trim()]: now.toString() });
        }}
      >
        <Input
          autoFocus
          aria-label="Name of this view"
          placeholder="Name of this view"
          className="w-40"
          value={naming}
          onChange={(event) => setNaming(event.target.value)}
        />
        <Button type="submit">Save</Button>
      </form>
    );
  return (
    <span className="flex gap-1">
      {Object.keys(views).length > 0 && (
        <Choice
          label="Saved views"
          value={current ?? ''}
          options={Object.keys(views).map((value) => ({ value, label: value }))}
          onChange={(name) => setParams(views[name]!)}
        />
      )}
      {current === undefined ? (
        <Button onClick={() => setNaming('')}>Save view</Button>
      ) : (
        <Button
          onClick={() => {
            const { [current]: _gone, ...rest } = views;
            keep(rest);
          }}
        >
          Forget view
        </Button>
      )}
    </span>
  );
}
